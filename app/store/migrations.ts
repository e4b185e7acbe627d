import type { IDBPDatabase, IDBPTransaction, StoreNames } from 'idb';
import type { RegressumDb } from './db';

type Migrate = (
  database: IDBPDatabase<RegressumDb>,
  transaction: IDBPTransaction<RegressumDb, StoreNames<RegressumDb>[], 'versionchange'>,
) => void | Promise<void>;

/** Object stores that older versions had. */
type Retired = 'journal';

/** The types know the newest version alone. */
const untyped = (database: IDBPDatabase<RegressumDb>): IDBPDatabase => database as unknown as IDBPDatabase;

function createRetired(database: IDBPDatabase<RegressumDb>, name: Retired, options: IDBObjectStoreParameters): void {
  untyped(database).createObjectStore(name, options);
}

/** The store's versions, in order; the version number is the length of this list. Entries are only ever appended. */
export const MIGRATIONS: readonly Migrate[] = [
  (database) => {
    database.createObjectStore('installs', { keyPath: 'id' });
    database.createObjectStore('services', { keyPath: 'name' });
    database.createObjectStore('manifests');
    database.createObjectStore('surveys', { keyPath: ['install', 'tree'] });
    database.createObjectStore('jobs', { keyPath: 'id' }).createIndex('byInstall', 'install');
    createRetired(database, 'journal', { keyPath: 'seq', autoIncrement: true });
    database.createObjectStore('holds', { keyPath: 'install' });
    database.createObjectStore('trials', { autoIncrement: true }).createIndex('byInstall', 'install');
  },
  // Installs say where their folder lies; until then all lay on the browser disk. Each tree can have a quick look.
  async (database, transaction) => {
    database.createObjectStore('looks', { keyPath: ['install', 'tree'] });
    const installs = transaction.objectStore('installs');
    for (const install of await installs.getAll()) {
      await installs.put({ ...install, place: install.place ?? { kind: 'browser-disk' } });
    }
  },
  // Surveys carry the files' times, earlier ones are kept, and what an unfinished one has read is put down as it comes.
  async (database, transaction) => {
    const readings = database.createObjectStore('readings', { autoIncrement: true });
    readings.createIndex('byJob', 'job');
    readings.createIndex('byInstall', 'install');
    database.createObjectStore('pastSurveys', { keyPath: ['install', 'at'] });
    database.createObjectStore('learned', { keyPath: 'id' });
    const surveys = transaction.objectStore('surveys');
    for (const survey of await surveys.getAll()) {
      const modified = survey.modified ?? new Float64Array(survey.paths.length).fill(NaN);
      await surveys.put({ ...survey, modified, trusted: 0 });
    }
  },
  // Releases carry what people reported of them and what they make use of, and a person can bring in mods that no catalogue has.
  async (database, transaction) => {
    database.createObjectStore('ownMods', { keyPath: 'id' });
    const services = transaction.objectStore('services');
    const record = await services.get('catalogue');
    if (record?.name !== 'catalogue') return;
    const mods = record.value.mods.map((mod) => ({
      ...mod,
      releases: mod.releases.map((release) => ({
        ...release,
        reports: release.reports ?? [],
        optional: release.optional ?? [],
      })),
    }));
    await services.put({ ...record, value: { ...record.value, mods } });
  },
  // Changes of folders are journalled where the folders lie. What was under way then cannot be gone on with.
  async (database, transaction) => {
    untyped(database).deleteObjectStore('journal');
    const installs = transaction.objectStore('installs');
    for (const install of await installs.getAll()) {
      const { aside } = install;
      if (aside) await installs.put({ ...install, aside: { ...aside, set: aside.set ?? `before-${aside.tree}` } });
    }
    const jobs = transaction.objectStore('jobs');
    const changed = new Set<string>(['fetch', 'assemble', 'let-go']);
    for (const job of await jobs.getAll()) {
      if (job.endedAt === undefined && changed.has(job.kind))
        await jobs.put({ ...job, state: 'cancelled', endedAt: job.startedAt });
    }
  },
];
