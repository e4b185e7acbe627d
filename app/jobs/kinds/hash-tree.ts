import { inLanes } from '#core/calls';
import { type ContentKey, contentKey, keyPieceSize, PIECE_SIZE, pieceCount, pieceRange } from '#core/digest';
import type { WireFailure } from '#core/failure';
import { asPublished, type Reading, readBefore } from '#core/survey';
import type { HashWish } from '#core/folders';
import { query } from '~/queries';
import { addReading, getInstall, readingsOf, type StoredSurvey } from '~/store';
import type { JobContext } from '../job-context';
import type { HashResult, Listing } from '~/workers';
import { batches, hashWishes, runCounted } from './batches';
import { type Source, sourceOf, toldTimesOf } from '~/places';

/** The files of a source by paths below its root, sorted. */
export async function listTree(context: JobContext, { root, placeOf }: Source): Promise<Listing> {
  context.phase('Listing the folder', 0, 0);
  const listing = await runCounted(context, { do: 'list', place: placeOf(), root });
  const prefix = root === '' ? 0 : root.length + 1;
  const below = <T extends { path: string }>(one: T): T => ({ ...one, path: one.path.slice(prefix) });
  return {
    ...listing,
    paths: listing.paths.map((path) => path.slice(prefix)),
    unreadable: listing.unreadable.map(below),
  };
}

/** Files that are gone through before the page gets its turn: a few milliseconds' work. */
const AT_A_STRETCH = 4_000;

/** Lets whoever waits for this thread go first. */
const turn = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

/** What is to be read of a file: all of it, or a span. */
interface Work {
  /** The file's place in the listing. */
  readonly file: number;
  readonly wish: HashWish;
  /** Bytes to read. */
  readonly size: number;
}

function workOf(file: number, path: string, size: number, pieceSize: number): Work[] {
  return hashWishes(path, size, pieceSize).map((wish) => {
    const { span } = wish;
    const edge = (piece: number): { start: number; end: number } => pieceRange(size, piece, pieceSize);
    const bytes = span ? edge(span.end - 1).end - edge(span.first).start : size;
    return { file, wish, size: bytes };
  });
}

/** Keys of a listing's files, as they become known. */
class Keys {
  readonly all: (ContentKey | undefined)[];
  /** Pieces of files of which not all spans are there yet, by the file and the span's first piece. */
  readonly #parts = new Map<number, Map<number, readonly string[]>>();

  constructor(private readonly listing: Listing) {
    this.all = Array<ContentKey | undefined>(listing.paths.length).fill(undefined);
  }

  /** @returns whether all of the file has been read */
  take({ file, wish }: Work, { size, pieces }: NonNullable<HashResult['contents'][number]>): boolean {
    let whole: readonly string[] = pieces;
    if (wish.span) {
      const parts = this.#parts.get(file) ?? new Map<number, readonly string[]>();
      this.#parts.set(file, parts.set(wish.span.first, pieces));
      whole = [...parts].toSorted(([a], [b]) => a - b).flatMap(([, some]) => some);
      if (whole.length < pieceCount(size, wish.pieceSize)) return false;
      this.#parts.delete(file);
    }
    this.listing.sizes[file] = size;
    this.all[file] = contentKey(size, whole, wish.pieceSize);
    return true;
  }

  /** The columns of all files that have a key, made so that the page answers meanwhile. */
  async readable(at: number): Promise<Reading> {
    const most = this.all.length;
    const [paths, keys]: [string[], ContentKey[]] = [[], []];
    const [sizes, modified] = [new Float64Array(most), new Float64Array(most)];
    for (const [i, key] of this.all.entries()) {
      if (i % AT_A_STRETCH === 0) await turn();
      if (key === undefined) continue;
      sizes[keys.length] = this.listing.sizes[i]!;
      modified[keys.length] = this.listing.modified[i]!;
      paths.push(this.listing.paths[i]!);
      keys.push(key);
    }
    return { at, paths, sizes: sizes.slice(0, keys.length), modified: modified.slice(0, keys.length), keys };
  }

  /** The columns of some files of the listing. */
  reading(files: readonly number[], at: number): Reading {
    const { paths, sizes, modified } = this.listing;
    return {
      at,
      paths: files.map((i) => paths[i]!),
      sizes: Float64Array.from(files, (i) => sizes[i]!),
      modified: Float64Array.from(files, (i) => modified[i]!),
      keys: files.map((i) => this.all[i]!),
    };
  }
}

/** How the files of a folder are read. */
interface Hashing {
  readonly phase: string;
  /** Readings whose digests are taken over for files that have the same size and time still. */
  readonly earlier?: readonly Reading[];
  /** The time that a file really has. */
  readonly told?: (path: string, modified: number) => number;
  readonly pieceSizeOf: (path: string, size: number) => number;
  /** Whether a file of this size is read at all. */
  readonly isWanted?: (size: number) => boolean;
  /** Whether the folder is there still. @throws Failure why it is not */
  readonly assertThere: () => Promise<void>;
  /** The files, where not all of the folder is meant; then nothing is put down of what was read. */
  readonly listed?: Listing;
}

/**
 * Hashes the files of a folder. A file that vanishes or cannot be read meanwhile is reported as itself, the rest goes on.
 * What was read is put down as it comes, so that a job that was cut off goes on where it stopped; the caller drops the
 * readings once the outcome is stored.
 * @returns columns sorted by path, without the unreadable ones and those that were not wanted
 */
export async function hashSource(
  context: JobContext,
  source: Source,
  { phase, earlier = [], told, pieceSizeOf, isWanted = () => true, assertThere, listed: given }: Hashing,
): Promise<Reading & Pick<StoredSurvey, 'trusted' | 'unreadable'>> {
  const at = Date.now();
  const listed = given ?? (await listTree(context, source));
  const modified = told ? listed.modified.map((time, i) => told(listed.paths[i]!, time)) : listed.modified;
  const listing = { ...listed, modified };
  const keys = new Keys(listing);
  const known = readBefore([...earlier, ...(given ? [] : await readingsOf(context.id))]);
  const work: Work[] = [];
  let trusted = 0;
  for (const [i, path] of listing.paths.entries()) {
    if (i % AT_A_STRETCH === 0) await turn();
    const size = listing.sizes[i]!;
    if (!isWanted(size)) continue;
    const pieceSize = pieceSizeOf(path, size);
    const key = known(path, size, listing.modified[i]!);
    if (key !== undefined && keyPieceSize(key) === (size <= PIECE_SIZE ? PIECE_SIZE : pieceSize)) {
      keys.all[i] = key;
      trusted += 1;
    } else work.push(...workOf(i, path, size, pieceSize));
  }
  context.phase(
    phase,
    new Set(work.map(({ file }) => file)).size,
    work.reduce((sum, { size }) => sum + size, 0),
  );

  const unreadable = new Map<string, WireFailure>(listing.unreadable.map(({ path, failure }) => [path, failure]));
  const prefix = source.root === '' ? '' : `${source.root}/`;
  await inLanes(batches(work, source.batch), 4, context, async (batch) => {
    const files = batch.map(({ wish }) => ({ ...wish, path: prefix + wish.path }));
    const place = source.placeOf(files.map(({ path }) => path));
    let counted = 0;
    const add: JobContext['add'] = (done, bytes) => {
      counted += bytes;
      context.add(done, bytes);
    };
    const { contents, unreadable: refused } = await runCounted({ ...context, add }, { do: 'hash', place, files });
    const lost = refused.filter(({ path }) => !unreadable.has(path.slice(prefix.length)));
    for (const { path, failure } of lost) unreadable.set(path.slice(prefix.length), failure);
    // Where nothing could be read the folder itself may be gone, or the browser may have taken the permission back: then
    // the job stops, to go on when it is there again, and reports no thousands of files.
    if (refused.length === batch.length) await assertThere();
    const read = batch.flatMap((one, i) => (contents[i] && keys.take(one, contents[i]) ? [one.file] : []));
    if (!given) await addReading(context.install, context.id, keys.reading(read, at));
    // Of a file that ended too early, or could not be read, there is nothing left to do either.
    const size = batch.reduce((sum, one) => sum + one.size, 0);
    context.add(read.length + lost.length, size - counted);
  });
  return {
    ...(await keys.readable(at)),
    trusted,
    unreadable: [...unreadable].map(([path, failure]) => ({ path, failure })),
  };
}

/** Hashes every file of a tree of the install, as {@link hashSource} does. */
export async function hashTree(
  context: JobContext,
  tree: string,
  phase: string,
  earlier: readonly Reading[] = [],
): Promise<Omit<StoredSurvey, 'install'>> {
  const install = await getInstall(context.install);
  const source = await sourceOf(install, tree);
  const read = await hashSource(context, source, {
    ...{ phase, earlier, told: toldTimesOf(install) },
    pieceSizeOf: asPublished(await query('pieceSizes', context.install)),
    assertThere: async () => {
      await sourceOf(await getInstall(context.install), tree);
      await source.reader.list(source.root);
    },
  });
  return { ...read, tree };
}
