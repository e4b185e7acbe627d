import {
  type ChangeSet,
  type Disk,
  type Direction,
  type Inspected,
  type Inspection,
  type Journalled,
  type Met,
  readJournal,
  type Turning,
} from '#core/changes';
import type { Act } from '#core/contents';
import type { ContentKey } from '#core/digest';
import { Failure } from '#core/failure';
import { type BesidePlaces, INSTALL_DISK, installDisk, pickedDisk, servedOnes, withBeside } from '~/folders';
import type { ArrivalPlace, ChangedPlace, DiskPool } from '~/workers';
import { platformSha256, servedToken } from '~/remote';
import { isKeptInFolder, sourceOf, text } from '~/places';
import { IN_GAME } from '#core/keepsakes';
import type { Install } from '~/store';
import type { FlagReader } from './flags';
import { onServer } from './on-server';

/** Who runs a change set: a job, which is paused, cancelled and shown. */
export interface Runner {
  readonly pool: DiskPool;
  add(files: number, bytes: number): void;
  /** Does work that a pause ends with `job/cancelled`, and that goes on afterwards when it is done again. */
  pausing<T>(work: (signal: AbortSignal) => Promise<T>): Promise<T>;
}

/** What changes the store, and not the game's folder. */
export type StoreAct = Extract<
  Act,
  {
    act:
      | 'let-go'
      | 'keep'
      | 'keepsake'
      | 'drop-keepsake'
      | 'refer'
      | 'drop'
      | 'each'
      | 'verify'
      | 'recheck'
      | 'clear'
      | 'note'
      | 'mirror';
  }
>;

/** The change sets of an install, which run where its folder lies. */
export interface Changes {
  /** To look at; what changes it goes through {@link run}. */
  readonly disk: Pick<Disk, 'current' | 'list' | 'stat' | 'read'> & FlagReader;
  /** Where contents are put down that are fetched for it. */
  readonly arrivals: ArrivalPlace;
  /** Undefined where no such set was ever written down. */
  read(set: string): Promise<Journalled | undefined>;
  /**
   * Goes on or back with a set until its end; a pause of the job stops it between two steps.
   * @param plan is written down first, unless a set with its id is there already
   * @param turning what is known, and was decided, where it is turned
   */
  run(runner: Runner, set: string, way: Direction, plan?: ChangeSet, turning?: Turning): Promise<void>;
  /** What sets that are to be turned one after the other meet. @throws Failure `changes/unknown`, `folder/*` */
  met(runner: Runner, sets: readonly string[], way: Direction): Promise<readonly Met[]>;
  /** The keys of files of the disk, null where nothing lies. @throws Failure `folder/*` */
  keysOf(runner: Runner, paths: readonly string[]): Promise<readonly (ContentKey | null)[]>;
  /** A small text of the disk; undefined where there is none. @throws Failure `folder/*` */
  textOf(runner: Runner, path: string): Promise<string | undefined>;
  /** Carries out what changes the store, and not the game's folder. */
  carryOut(runner: Runner, act: StoreAct): Promise<void>;
}

/** Change sets of a disk that this browser changes, in a worker. */
function inBrowser(place: ChangedPlace, onlyDisk: Disk, tree: string, beside: BesidePlaces): Changes {
  const disk = withBeside(onlyDisk, beside);
  async function readOnlyOf(paths: readonly string[]): Promise<ReadonlySet<string>> {
    if (!disk.can.readOnlyFlag) return new Set();
    const flags = await Promise.all(paths.map((path) => disk.isReadOnly(path)));
    return new Set(paths.filter((_, i) => flags[i]));
  }
  const ports = { disk, sha256: platformSha256, ...text };
  const carryOut = (runner: Runner, act: Act): Promise<void> =>
    runner.pausing(async (signal) => {
      await runner.pool.run(
        { do: 'change', place, tree, beside, act },
        { signal, progress: (done) => done.kind === 'bytes' && runner.add(done.files, done.bytes) },
      );
    });
  return {
    disk: { ...disk, readOnlyOf },
    arrivals: place,
    read: (set) => readJournal(ports, set),
    run: (runner, set, way, plan, turning) => carryOut(runner, turnAct(set, way, plan, turning)),
    ...inspecting((runner, inspection) =>
      runner.pausing((signal) => runner.pool.run({ do: 'inspect', place, tree, beside, inspection }, { signal })),
    ),
    carryOut,
  };
}

/** The act that turns a set. */
export const turnAct = (set: string, way: Direction, plan?: ChangeSet, { leaves, settle = [] }: Turning = {}): Act => ({
  ...{ act: way, set },
  ...(plan && { plan }),
  ...(leaves && { leaves }),
  ...(settle.length > 0 && { settle: [...settle] }),
});

/** What is asked of a disk, by whatever answers it. */
export const inspecting = (
  ask: (runner: Runner, inspection: Inspection) => Promise<Inspected>,
): Pick<Changes, 'met' | 'keysOf' | 'textOf'> => ({
  async met(runner, sets, way) {
    const answer = await ask(runner, { of: 'sets', sets: [...sets], way });
    return 'met' in answer ? answer.met : [];
  },
  async keysOf(runner, paths) {
    const answer = await ask(runner, { of: 'files', paths: [...paths] });
    return 'keys' in answer ? answer.keys : [];
  },
  async textOf(runner, path) {
    const answer = await ask(runner, { of: 'text', path });
    return ('text' in answer ? answer.text : undefined) ?? undefined;
  },
});

/** Folders outside an install's that are reached from its disk. */
const besideOf = ({ elsewhere = [], followed = [] }: Install): BesidePlaces =>
  Object.fromEntries(
    [...elsewhere, ...followed].map(({ name, at }) => [
      name,
      at.kind === 'served' ? { ...at, token: servedToken() } : { ...at, disk: '', tree: '' },
    ]),
  );

/**
 * @param more folders elsewhere, by what the disk calls them in `beside/`; a served install reaches served ones alone
 * @throws Failure `folder/no-permission` where the folder's place cannot be changed from here
 */
export function changesOf(install: Install, more: BesidePlaces = {}): Changes {
  const { id, tree, record } = install;
  const beside = { ...besideOf(install), ...more };
  switch (install.place.kind) {
    case 'browser-disk':
      return inBrowser({ kind: 'browser-disk', disk: INSTALL_DISK(id) }, installDisk(id, tree), tree, beside);
    case 'picked': {
      const place = { ...install.place, disk: INSTALL_DISK(id), tree };
      return inBrowser(place, pickedDisk(place), tree, beside);
    }
    case 'served':
      return onServer(
        { ...install.place, token: servedToken() },
        {
          ...(record?.kind === 'served' && { record: { root: record.root, folder: record.folder } }),
          ...servedOnes(beside),
        },
      );
    default:
      throw new Failure('folder/no-permission', { path: install.folder });
  }
}

/**
 * Where keepsakes of an install are made and put back: with the changes of its folder, or, where that can only be looked at
 * from here, on the browser's own disk with the folder beside it.
 * @param more as {@link changesOf} takes it
 */
export async function keeping(install: Install, more: BesidePlaces = {}): Promise<Changes> {
  if (await isKeptInFolder(install)) return changesOf(install, more);
  const game = (await sourceOf(install, install.tree)).placeOf();
  return onOwnDisk(install, { ...besideOf(install), ...more, [IN_GAME]: game });
}

/** What this browser's own disk keeps for an install, wherever its folder lies. */
export const onOwnDisk = ({ id, tree }: Install, beside: BesidePlaces = {}): Changes =>
  inBrowser({ kind: 'browser-disk', disk: INSTALL_DISK(id) }, installDisk(id, tree), tree, beside);
