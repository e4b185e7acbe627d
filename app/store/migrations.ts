import type { IDBPDatabase, IDBPTransaction, StoreNames } from 'idb';
import type { RegressumDb } from './db';

type Migrate = (
  database: IDBPDatabase<RegressumDb>,
  transaction: IDBPTransaction<RegressumDb, StoreNames<RegressumDb>[], 'versionchange'>,
) => void | Promise<void>;

/** The store's versions, in order; the version number is the length of this list. Entries are only ever appended. */
export const MIGRATIONS: readonly Migrate[] = [
  (database) => {
    database.createObjectStore('installs', { keyPath: 'id' });
    database.createObjectStore('services', { keyPath: 'name' });
    database.createObjectStore('manifests');
    database.createObjectStore('surveys', { keyPath: ['install', 'tree'] });
    database.createObjectStore('jobs', { keyPath: 'id' }).createIndex('byInstall', 'install');
    database.createObjectStore('journal', { keyPath: 'seq', autoIncrement: true }).createIndex('byJob', 'job');
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
];
