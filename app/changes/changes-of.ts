import { type ChangeSet, type Disk, type Direction, type Journalled, readJournal } from '#core/changes';
import type { Act } from '#core/contents';
import { Failure } from '#core/failure';
import type { ServedBeside } from '#core/served';
import { type BesidePlaces, INSTALL_DISK, installDisk, pickedDisk, withBeside } from '~/folders';
import type { ArrivalPlace, ChangedPlace, DiskPool } from '~/workers';
import { platformSha256, servedToken } from '~/remote';
import { isKeptInFolder, sourceOf, text } from '~/places';
import { IN_GAME } from '#core/keepsakes';
import type { Install } from '~/store';
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
  { act: 'let-go' | 'keep' | 'keepsake' | 'drop-keepsake' | 'refer' | 'drop' | 'verify' | 'clear' | 'note' | 'mirror' }
>;

/** The change sets of an install, which run where its folder lies. */
export interface Changes {
  /** To look at; what changes it goes through {@link run}. */
  readonly disk: Pick<Disk, 'current' | 'list' | 'stat' | 'read' | 'isReadOnly'>;
  /** Where contents are put down that are fetched for it. */
  readonly arrivals: ArrivalPlace;
  /** Undefined where no such set was ever written down. */
  read(set: string): Promise<Journalled | undefined>;
  /**
   * Goes on or back with a set until its end; a pause of the job stops it between two steps.
   * @param plan is written down first, unless a set with its id is there already
   */
  run(runner: Runner, set: string, way: Direction, plan?: ChangeSet): Promise<void>;
  /** Carries out what changes the store, and not the game's folder. */
  carryOut(runner: Runner, act: StoreAct): Promise<void>;
}

/** Change sets of a disk that this browser changes, in a worker. */
function inBrowser(place: ChangedPlace, onlyDisk: Disk, tree: string, beside: BesidePlaces): Changes {
  const disk = withBeside(onlyDisk, beside);
  const ports = { disk, sha256: platformSha256, ...text };
  const carryOut = (runner: Runner, act: Act): Promise<void> =>
    runner.pausing(async (signal) => {
      await runner.pool.run(
        { do: 'change', place, tree, beside, act },
        { signal, progress: (done) => done.kind === 'bytes' && runner.add(done.files, done.bytes) },
      );
    });
  return {
    disk,
    arrivals: place,
    read: (set) => readJournal(ports, set),
    run: (runner, set, way, plan) => carryOut(runner, { act: way, set, ...(plan && { plan }) }),
    carryOut,
  };
}

/** Served folders outside an install's that the server reaches from its disk. */
const servedBeside = ({ record, elsewhere = [] }: Install): ServedBeside => ({
  ...(record?.kind === 'served' && { record: { root: record.root, folder: record.folder } }),
  ...Object.fromEntries(
    elsewhere.flatMap(({ name, at }) => (at.kind === 'served' ? [[name, { root: at.root, folder: at.folder }]] : [])),
  ),
});

/** Folders outside an install's that the browser reaches from its disk. */
const besideHere = ({ elsewhere = [] }: Install): BesidePlaces =>
  Object.fromEntries(
    elsewhere.map(({ name, at }) => [
      name,
      at.kind === 'served' ? { ...at, token: servedToken() } : { ...at, disk: '', tree: '' },
    ]),
  );

/**
 * @param beside served folders elsewhere, by what the disk calls them in `beside/`
 * @throws Failure `folder/no-permission` where the folder's place cannot be changed from here
 */
export function changesOf(install: Install, beside?: ServedBeside): Changes {
  const { id, tree } = install;
  switch (install.place.kind) {
    case 'browser-disk':
      return inBrowser(
        { kind: 'browser-disk', disk: INSTALL_DISK(id) },
        installDisk(id, tree),
        tree,
        besideHere(install),
      );
    case 'picked': {
      const place = { ...install.place, disk: INSTALL_DISK(id), tree };
      return inBrowser(place, pickedDisk(place), tree, besideHere(install));
    }
    case 'served':
      return onServer({ ...install.place, token: servedToken() }, { ...servedBeside(install), ...beside });
    default:
      throw new Failure('folder/no-permission', { path: install.folder });
  }
}

/**
 * Where keepsakes of an install are made and put back: with the changes of its folder, or, where that can only be looked at
 * from here, on the browser's own disk with the folder beside it.
 */
export async function keeping(install: Install): Promise<Changes> {
  if (await isKeptInFolder(install)) return changesOf(install);
  const { id, tree } = install;
  const game = (await sourceOf(install, tree)).placeOf();
  const beside = { ...besideHere(install), [IN_GAME]: game };
  return inBrowser({ kind: 'browser-disk', disk: INSTALL_DISK(id) }, installDisk(id, tree), tree, beside);
}
