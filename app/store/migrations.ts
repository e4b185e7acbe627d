import type { IDBPDatabase, IDBPTransaction, StoreNames } from 'idb';
import type { DepotIndex } from '#core/builds';
import type { Catalogue } from '#core/mods';
import { packed } from './columns';
import type { RegressumDb, ToldRecord } from './db';
import { apart } from './profiles';
import { FIRST_PROFILE, type Install, type OwnMod, type StoredReading, type StoredSurvey } from './records';

type Migrate = (
  database: IDBPDatabase<RegressumDb>,
  transaction: IDBPTransaction<RegressumDb, StoreNames<RegressumDb>[], 'versionchange'>,
) => void | Promise<void>;

/** Object stores that older versions had. */
type Retired = 'journal' | 'services' | 'ownMods';

/** The types know the newest version alone. */
const untyped = (database: IDBPDatabase<RegressumDb>): IDBPDatabase => database as unknown as IDBPDatabase;

/** An object store of an older version, in a transaction that brings it over. */
const retired = (transaction: Parameters<Migrate>[1], name: Retired) =>
  (transaction as unknown as IDBPTransaction<unknown, string[], 'versionchange'>).objectStore(name);

function createRetired(database: IDBPDatabase<RegressumDb>, name: Retired, options: IDBObjectStoreParameters): void {
  untyped(database).createObjectStore(name, options);
}

/** The store's versions, in order; the version number is the length of this list. Entries are only ever appended. */
export const MIGRATIONS: readonly Migrate[] = [
  (database) => {
    database.createObjectStore('installs', { keyPath: 'id' });
    createRetired(database, 'services', { keyPath: 'name' });
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
    createRetired(database, 'ownMods', { keyPath: 'id' });
    const services = retired(transaction, 'services');
    const record = (await services.get('catalogue')) as { value: Catalogue } | undefined;
    if (!record) return;
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
    const jobs = transaction.objectStore('jobs');
    const changed = new Set<string>(['fetch', 'assemble', 'let-go']);
    for (const job of await jobs.getAll()) {
      if (job.endedAt === undefined && changed.has(job.kind))
        await jobs.put({ ...job, state: 'cancelled', endedAt: job.startedAt });
    }
  },
  // Games are records of their own. Until then there was one, which its service told of: all that was known is of it.
  async (database, transaction) => {
    const games = database.createObjectStore('games', { keyPath: 'id' });
    const told = database.createObjectStore('told', { keyPath: ['game', 'source', 'name'] });
    const gameMods = database.createObjectStore('gameMods', { keyPath: ['game', 'id'] });
    const [services, ownMods] = [retired(transaction, 'services'), retired(transaction, 'ownMods')];
    const installs = transaction.objectStore('installs');
    const index = (await services.get('index')) as { value: DepotIndex; at: number } | undefined;
    if (index) {
      const { game } = index.value;
      const source = 'service';
      const times = { addedAt: index.at, changedAt: index.at };
      await games.put({ ...game, sources: [{ kind: 'service', id: source }], ...times });
      for (const record of (await services.getAll()) as { name: string }[])
        await told.put({ ...record, game: game.id, source: record.name === 'stamps' ? '' : source } as ToldRecord);
      for (const install of await installs.getAll()) await installs.put({ ...install, game: game.id });
      for (const mod of (await ownMods.getAll()) as Omit<OwnMod, 'game'>[])
        await gameMods.put({ ...mod, game: game.id });
      const learned = transaction.objectStore('learned');
      for (const record of await learned.getAll()) await learned.put({ ...record, game: game.id });
    } else {
      // Nothing was ever known of these: their folder was never laid out.
      await installs.clear();
    }
    untyped(database).deleteObjectStore('services');
    untyped(database).deleteObjectStore('ownMods');
  },
  // What is decided about an install is its profile's.
  async (database, transaction) => {
    database.createObjectStore('profiles', { keyPath: ['install', 'id'] });
    const [installs, profiles] = [transaction.objectStore('installs'), transaction.objectStore('profiles')];
    for (const whole of (await installs.getAll()) as unknown as Install[]) {
      const { install, profile } = apart({ ...whole, profile: FIRST_PROFILE });
      await Promise.all([installs.put(install), profiles.put(profile)]);
    }
  },
  // The paths and keys of a survey are one text each.
  async (_, transaction) => {
    for (const name of ['surveys', 'pastSurveys', 'readings'] as const) {
      const store = transaction.objectStore(name);
      for (let cursor = await store.openCursor(); cursor; cursor = await cursor.continue())
        await cursor.update(packed(cursor.value as unknown as StoredSurvey & StoredReading));
    }
  },
  // Folders outside the game's have names, by which change sets reach them.
  async (_, transaction) => {
    const [installs, profiles] = [transaction.objectStore('installs'), transaction.objectStore('profiles')];
    for (const { along, ...install } of (await installs.getAll()) as unknown as Install[]) {
      const elsewhere = install.elsewhere?.map((one, i) => ({ ...one, name: `own${String.fromCharCode(97 + i)}` }));
      await installs.put({ ...install, ...(elsewhere && { elsewhere }) });
      // What comes along is decided by a profile.
      const profile = along && (await profiles.get([install.id, install.profile]));
      if (profile) await profiles.put({ ...profile, along });
    }
  },
  // What is known of releases on the shelf outlives what catalogues say.
  (database) => {
    database.createObjectStore('shelved', { keyPath: ['game', 'mod', 'version'] });
  },
  // What sources have compressed is told by indexes of their own.
  (database) => {
    database.createObjectStore('bundles');
  },
];
