import { type DBSchema, type IDBPDatabase, type IDBPTransaction, openDB, type StoreNames } from 'idb';
import type { DepotIndex, ModId } from '#core/builds';
import { Failure } from '#core/failure';
import type { Manifest } from '#core/manifest';
import type { Catalogue, Mod } from '#core/mods';
import type { LearnedBuild } from '#core/survey';
import type {
  GameRecord,
  HoldRecord,
  JobRecord,
  OwnMod,
  Shelved,
  StoredProfile,
  StoredLook,
  StoredReading,
  StoredSession,
  StoredSurvey,
  StoredTrial,
} from './records';
import { broadcast, type BroughtOver } from './changes';
import type { Packed } from './columns';
import { MIGRATIONS } from './migrations';
import type { StoredInstall } from './profiles';

export interface RegressumDb extends DBSchema {
  installs: { key: string; value: StoredInstall };
  /** What is decided about installs. */
  profiles: { key: [install: string, id: string]; value: StoredProfile };
  games: { key: string; value: GameRecord };
  /** What the sources of a game said last, so that the stages work offline. */
  told: { key: [game: string, source: string, name: ToldRecord['name']]; value: ToldRecord };
  /** Key: SHA-256 of the manifest's text. */
  manifests: { key: string; value: Manifest };
  /** Indexes of bundles, as texts. Key: SHA-256 of the text, or what it is of and where it is. */
  bundles: { key: string; value: string };
  /** The latest survey of each tree of each install. */
  surveys: { key: [install: string, tree: string]; value: Packed<StoredSurvey> };
  /** The latest quick look at each tree of each install. */
  looks: { key: [install: string, tree: string]; value: StoredLook };
  /** What unfinished jobs have read. */
  readings: { key: number; value: Packed<StoredReading>; indexes: { byJob: string; byInstall: string } };
  /** Earlier surveys of each install, to compare with. */
  pastSurveys: { key: [install: string, at: number]; value: Packed<StoredSurvey> };
  /** Builds of games that a person recorded. */
  learned: { key: string; value: StoredLearned };
  jobs: { key: string; value: JobRecord; indexes: { byInstall: string } };
  holds: { key: string; value: HoldRecord };
  /** Mods of games that a person brought in, which no catalogue has or knows as they do. */
  gameMods: { key: [game: string, id: ModId]; value: OwnMod };
  /** What is known of releases on the shelf. */
  shelved: { key: [game: string, mod: ModId, version: string]; value: Shelved };
  trials: { key: number; value: StoredTrial; indexes: { byInstall: string } };
}

/** A record of a build, and the game that it is of. */
export type StoredLearned = LearnedBuild & { readonly game: string };

/** Releases, and manifests with their builds and depots, that sources told once. */
export interface Rested {
  readonly mods: readonly Mod[];
  readonly index?: DepotIndex;
}

export type ToldRecord = { game: string; source: string } & (
  | /** `digest`: SHA-256 of the text that it was read from. */
    { name: 'index'; value: DepotIndex; at: number; digest?: string }
  | { name: 'catalogue'; value: Catalogue; at: number; digest?: string }
  /** When indexes and catalogues of the game were put down last, to tell without reading them whether they are as they were. */
  | { name: 'stamps'; index: number; catalogue: number }
  | { name: 'session'; value: StoredSession; at: number }
  /** What no source tells any more, and folders rest on. */
  | { name: 'rested'; rested: Rested }
);

export type Db = IDBPDatabase<RegressumDb>;

const NAME = 'regressum';

let opened: Promise<Db> | undefined;

/** Opens the store once a thread, bringing it to the newest version. @throws Failure `store/newer`, or what the browser says */
export function db(): Promise<Db> {
  opened ??= openStore().catch((error: unknown) => {
    // Whoever asks next tries again: what was in the way may be gone.
    opened = undefined;
    const isNewer = error instanceof DOMException && error.name === 'VersionError';
    throw isNewer ? new Failure('store/newer', { expected: MIGRATIONS.length }, { cause: error }) : error;
  });
  return opened;
}

async function recordsIn(
  transaction: IDBPTransaction<RegressumDb, StoreNames<RegressumDb>[], 'versionchange'>,
): Promise<number> {
  const counts = await Promise.all(
    [...transaction.objectStoreNames].map((name) => transaction.objectStore(name).count()),
  );
  return counts.reduce((sum, count) => sum + count, 0);
}

async function openStore(): Promise<Db> {
  let told: BroughtOver | undefined;
  const database = await openDB<RegressumDb>(NAME, MIGRATIONS.length, {
    upgrade(database, from, to, transaction) {
      const migrateAll = async (): Promise<void> => {
        const began = performance.now();
        for (const migrate of MIGRATIONS.slice(from)) await migrate(database, transaction);
        if (from === 0) return;
        const records = await recordsIn(transaction);
        told = { from, to: to!, records, milliseconds: performance.now() - began };
      };
      // Half a migration is none: the store stays as the older version left it, and opening it fails.
      migrateAll().catch(() => transaction.abort());
      // Opening it tells why, to whoever asked.
      transaction.done.catch(() => undefined);
    },
    // Another tab wants to bring the store to a newer version: give way, the next call opens it again.
    blocking: () => closeDb(),
    terminated: () => (opened = undefined),
    blocked: (current, next) =>
      console.warn(`Store version ${current} is open elsewhere; version ${next} waits for it`),
  });
  // Only what has come to its end is told.
  if (told && told.records > 0) broadcast({ type: 'brought-over', told });
  return database;
}

export function closeDb(): void {
  void opened?.then((database) => database.close());
  opened = undefined;
}
