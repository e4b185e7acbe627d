import type { ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import { storeOf, type StoreReader } from '~/places';
import { type FetchReport, FetchReportSchema, type Install, listJobs } from '~/store';
import { keepLast } from './keep-last';

/*
 * Where contents lie in the store of an install. Reading that costs a list of all that lies there, so it is read again only
 * after a job has worked on the install, here or, where others may have, after the store has changed.
 */

interface Read {
  readonly install: string;
  readonly stamp: string;
  sources?: Promise<ReadonlyMap<ContentKey, string>>;
  kept?: ReturnType<StoreReader['kept']>;
  open?: ReturnType<StoreReader['open']>;
}

let last: Read | undefined;

const NONE_OPEN: readonly string[] = [];
const NOTHING_STORED: ReadonlyMap<ContentKey, string> = new Map();

/** Has the store be read again when it is next asked for. */
export function forgetStored(): void {
  last = undefined;
}

async function stampOf(install: string, store: StoreReader): Promise<string> {
  const jobs = (await listJobs()).filter((job) => job.install === install);
  const worked = jobs.map(({ id, state, progress }) => [id, state, progress.files, progress.bytes]);
  return JSON.stringify([await store.stamp(), worked]);
}

/** A store that cannot be read just now has nothing to offer. */
async function orNothing<T, Nothing>(work: Promise<T>, nothing: Nothing): Promise<T | Nothing> {
  try {
    return await work;
  } catch (error) {
    if (!isFailure(error)) throw error;
    // It may be there the next time.
    forgetStored();
    return nothing;
  }
}

/** What was read of the store, as long as nothing is new there; undefined where the folder has none. */
async function lastRead(install: Install): Promise<{ store: StoreReader; read: Read } | undefined> {
  const store = await storeOf(install);
  if (!store) return undefined;
  const stamp = await stampOf(install.id, store);
  if (last?.install !== install.id || last.stamp !== stamp) last = { install: install.id, stamp };
  return { store, read: last };
}

/** Where contents are to be had besides the game's folder, by their keys; paths are those of the install's disk. */
export async function storedOf(install: Install): Promise<ReadonlyMap<ContentKey, string>> {
  const here = await orNothing(lastRead(install), undefined);
  return here ? orNothing((here.read.sources ??= here.store.sources()), NOTHING_STORED) : NOTHING_STORED;
}

/** Change sets of an install that are between two states, whoever began them; none where its store cannot be asked now. */
export async function openSets(install: Install): Promise<readonly string[]> {
  const here = await orNothing(lastRead(install), undefined);
  return here ? orNothing((here.read.open ??= here.store.open()), NONE_OPEN) : NONE_OPEN;
}

/** Bytes that were fetched for an install and go when they have been laid down. */
export async function bytesFetched(install: Install): Promise<number> {
  const here = await orNothing(lastRead(install), undefined);
  const kept = here ? await orNothing((here.read.kept ??= here.store.kept()), []) : [];
  return kept.reduce(
    (sum, { reason, bytes }) => sum + (reason.kind === 'fetched' && reason.install === install.id ? bytes : 0),
    0,
  );
}

const keptPartly = keepLast(
  (partly: string): ReadonlyMap<string, ReadonlySet<number>> =>
    new Map(
      (JSON.parse(partly) as FetchReport['partly']).map(([sha256, stretches]) => [
        sha256,
        new Set(stretches.flatMap(([from, to]) => Array.from({ length: to - from }, (_, i) => from + i))),
      ]),
    ),
);

/**
 * The pieces of files that have come in part, by the SHA-256 of each file, as the last fetch has told. A piece that is not
 * there after all is fetched.
 */
export async function partlyFetched(install: Install): Promise<ReadonlyMap<string, ReadonlySet<number>>> {
  const fetches = (await listJobs()).filter((job) => job.install === install.id && job.kind === 'fetch');
  const last = fetches.toSorted((a, b) => a.startedAt - b.startedAt).findLast(({ outcome }) => outcome !== undefined);
  const report = FetchReportSchema.safeParse(last?.outcome);
  return keptPartly(JSON.stringify(report.data?.partly ?? []));
}
