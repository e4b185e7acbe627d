import type { LayDownWay } from '#core/assemble';
import { type ChangeSet, type Disk, type Direction, type Journalled, listJournals, readJournal } from '#core/changes';
import { Failure } from '#core/failure';
import { FETCHED, INSTALL_DISK, installDisk, layDownWays, pickedDisk } from '~/folders';
import type { ArrivalPlace, ChangedPlace, DiskPool } from '~/workers';
import { platformSha256, servedToken } from '~/remote';
import type { Install } from '~/store';
import { onServer } from './on-server';

/** Who runs a change set: a job, which is paused, cancelled and shown. */
export interface Runner {
  readonly pool: DiskPool;
  add(files: number, bytes: number): void;
  /** Does work that a pause ends with `job/cancelled`, and that goes on afterwards when it is done again. */
  pausing<T>(work: (signal: AbortSignal) => Promise<T>): Promise<T>;
}

/** The change sets of an install, which run where its folder lies. */
export interface Changes {
  /** To look at; what changes it goes through {@link run}. */
  readonly disk: Pick<Disk, 'current' | 'list' | 'stat' | 'read' | 'isReadOnly'>;
  /** How a lay-down may go here. */
  readonly ways: readonly LayDownWay[];
  /** Where contents are put down that are fetched for it. */
  readonly arrivals: ArrivalPlace;
  /** Undefined where no such set was ever written down. */
  read(set: string): Promise<Journalled | undefined>;
  /** All that have a journal, by when they were planned. */
  list(): Promise<Journalled[]>;
  /**
   * Goes on or back with a set until its end; a pause of the job stops it between two steps.
   * @param plan is written down first, unless a set with its id is there already
   */
  run(runner: Runner, set: string, way: Direction, plan?: ChangeSet): Promise<void>;
  /** Removes what was fetched and has been laid down. */
  dropFetched(): Promise<void>;
  /** Removes for good what a set keeps. */
  letGo(runner: Runner, set: string): Promise<void>;
}

const text = {
  encode: (value: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(value),
  decode: (bytes: Uint8Array<ArrayBuffer>): string => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
};

/** Change sets of a disk that this browser changes, in a worker. */
function inBrowser(place: ChangedPlace, disk: Disk, tree: string, ways: Changes['ways']): Changes {
  const ports = { disk, sha256: platformSha256, ...text };
  const act = (runner: Runner, set: string, what: Direction | 'let-go', plan?: ChangeSet): Promise<void> =>
    runner.pausing(async (signal) => {
      await runner.pool.run(
        { do: 'change', place, tree, set, act: what, plan },
        { signal, progress: (done) => done.kind === 'bytes' && runner.add(done.files, done.bytes) },
      );
    });
  return {
    disk,
    ways,
    arrivals: place,
    read: (set) => readJournal(ports, set),
    async list() {
      const all = await Promise.all((await listJournals(ports)).map((set) => readJournal(ports, set)));
      return all.filter((one) => one !== undefined).toSorted((a, b) => a.set.at - b.set.at);
    },
    run: act,
    dropFetched: () => disk.remove(FETCHED),
    letGo: (runner, set) => act(runner, set, 'let-go'),
  };
}

/** @throws Failure `folder/no-permission` where the folder's place cannot be changed from here */
export function changesOf(install: Install): Changes {
  const { id, tree } = install;
  const ways = layDownWays(install.place);
  switch (install.place.kind) {
    case 'browser-disk':
      return inBrowser({ kind: 'browser-disk', disk: INSTALL_DISK(id) }, installDisk(id, tree), tree, ways);
    case 'picked': {
      const place = { ...install.place, disk: INSTALL_DISK(id), tree };
      return inBrowser(place, pickedDisk(place), tree, ways);
    }
    case 'served':
      return onServer({ ...install.place, token: servedToken() });
    default:
      throw new Failure('folder/no-permission', { path: install.folder });
  }
}
