import { assertGoing, inLanes } from '#core/calls';
import { type ArrivalFolder, arrivingPath, contentPath } from '#core/contents';
import { keyPieces, keyPieceSize, PIECE_SIZE, pieceRange, type Sha256 } from '#core/digest';
import { Failure, failureToWire, isFailure, type WireFailure } from '#core/failure';
import type { FolderReader, OpenFile, StopSignal } from '#core/folders';
import { type Haul, type Haulable, type HaulFile, haulsOf, type PackRange } from './hauls';
import { isOfOneFile, isPassing, isPutOff } from './passing';
import { Throttle } from './throttle';
import { type FetchItem, isNowhere, piecesOf, type PieceSource, type PieceWhence } from './what-to-fetch';

/*
 * Brings files to a disk: from where pieces of them lie already, and from their sources. Each piece counts only once its bytes
 * are right; what has come stays when the rest does not.
 */

/** A SHA-256 of bytes as they come. */
export interface StreamHash {
  update(bytes: Uint8Array): void;
  /** @returns hexadecimal digits */
  digest(): string;
}

/** Bytes `[start, end)`. */
export interface ByteRange {
  readonly start: number;
  readonly end: number;
}

/** What happens to a piece while its file is fetched. */
export type PieceState = 'to-come' | 'on-hand' | 'reused' | 'arriving' | 'failing' | 'checked';

/** News of a piece; `file` is the file's place in the haul, `bytes` counts those that are right now. */
export interface PieceNews {
  readonly file: number;
  readonly index: number;
  readonly state: PieceState;
  readonly bytes: number;
  /** What has come of the haul so far: one that is cut off tells no more. */
  readonly soFar: BroughtSoFar;
}

/** What bringing needs of the platform. */
export interface BringPorts {
  readonly folder: ArrivalFolder;
  /** The folder that pieces are taken from that lie elsewhere. */
  readonly from: Pick<FolderReader, 'open'>;
  readonly sha256: Sha256;
  readonly newHash: () => StreamHash;
  /**
   * A file as it comes, or a part of it.
   * @throws Failure `service/*`; `service/no-ranges` where a part was asked for and the source gives none
   */
  readonly open: (
    href: string,
    range: ByteRange | undefined,
    signal: StopSignal,
  ) => Promise<AsyncIterable<Uint8Array<ArrayBuffer>>>;
  readonly wait: (milliseconds: number) => Promise<void>;
  /** Milliseconds since any moment. */
  readonly now: () => number;
  /** What may come at most; undefined = whatever the line gives. */
  readonly bytesPerSecond?: number | undefined;
  readonly progress: (news: PieceNews) => void;
  readonly signal: StopSignal;
}

/** What came of a haul, in bytes and requests. */
export interface BroughtSoFar {
  readonly fetchedBytes: number;
  readonly reusedBytes: number;
  /** What the sources sent, right or wrong. */
  readonly wireBytes: number;
  readonly requests: number;
}

export const NOTHING_BROUGHT: BroughtSoFar = { fetchedBytes: 0, reusedBytes: 0, wireBytes: 0, requests: 0 };

/** What came of a haul in the end, and what of it could not be had. */
export interface Brought extends BroughtSoFar {
  /** Whether a source has put off some of it: it was busy, or out of reach. */
  readonly wasBusy: boolean;
  readonly failed: readonly { readonly file: number; readonly failure: WireFailure }[];
}

/** How often something is asked for without anything of it coming, before it is left to a later round. */
const MAX_TRIES = 4;
/** Files of a haul at once, and requests for parts of one large file. */
const FILES_AT_ONCE = 4;
const RUNS_AT_ONCE = 4;
/** What is asked for in one request: enough that requests cost nothing beside it, so little that a broken one costs little. */
const RUN_BYTES = 32 << 20;
/** Pieces up to this size are held whole, so that a wrong one is not even written. */
const HELD_WHOLE = 8 << 20;

interface Piece extends ByteRange {
  readonly index: number;
  readonly digest: string;
}

type Counts = { -readonly [Sum in keyof BroughtSoFar]: BroughtSoFar[Sum] } & { wasBusy: boolean };

const soFar = ({ fetchedBytes, reusedBytes, wireBytes, requests }: Counts): BroughtSoFar => ({
  ...{ fetchedBytes, reusedBytes, wireBytes, requests },
});

/** A file on its way. */
interface Coming {
  readonly file: HaulFile;
  /** The source that it comes from just now. */
  readonly href: string;
  readonly part: string;
  readonly ports: BringPorts;
  readonly counts: Counts;
  readonly throttle: Throttle | undefined;
  readonly tell: (index: number, state: PieceState, bytes: number) => void;
}

/** What has to be known of a file to count its requests; a piece that comes from anywhere else is not asked for. */
type Asked = Pick<HaulFile, 'size' | 'key'> & { readonly sources: readonly PieceWhence[] };

/** Requests that files take, where nothing goes wrong and the source gives parts. */
export const requestsFor = (files: readonly (Asked & Haulable)[]): number =>
  haulsOf(files).reduce(
    (sum, { files: some, pack }) => sum + (pack ? 1 : some.reduce((all, file) => all + requestsForOne(file), 0)),
    0,
  );

/** {@link requestsFor} what has to come of a target, each content once. */
export function requestsToFetch(items: readonly FetchItem[]): number {
  const toCome = items.flatMap((item) =>
    item.source.how === 'fetch' && !isNowhere(item) ? [{ ...item, sources: item.source.pieces }] : [],
  );
  return requestsFor([...new Map(toCome.map((item) => [item.key, item])).values()]);
}

function requestsForOne({ size, key, sources }: Asked): number {
  if (size === 0) return 0;
  const ranges = keyPieces(key).map((_, i) => pieceRange(size, i, keyPieceSize(key)));
  return runsOf(ranges.filter((_, i) => sources[i] === undefined)).length;
}

/** Bytes `[start, end)` in steps that fit into memory. */
function* steps({ start, end }: ByteRange): Generator<ByteRange> {
  for (let at = start; at < end || at === start; at += HELD_WHOLE)
    yield { start: at, end: Math.min(end, at + HELD_WHOLE) };
}

/** Puts a part down anew. It needs not be whole at every moment, and others are put down beside it. */
async function putAnew(folder: ArrivalFolder, part: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
  if (await folder.stat(part)) await folder.remove(part);
  await folder.writeAt(part, 0, bytes);
}

/** Reads bytes step by step. @returns their SHA-256 */
async function hashSteps(
  file: OpenFile,
  range: ByteRange,
  { sha256, newHash }: BringPorts,
  take: (at: number, bytes: Uint8Array<ArrayBuffer>) => Promise<void> = async () => undefined,
): Promise<string> {
  const isHeld = range.end - range.start <= HELD_WHOLE;
  const hash = isHeld ? undefined : newHash();
  let digest = '';
  for (const step of steps(range)) {
    const bytes = await file.read(step.start, step.end);
    if (hash) hash.update(bytes);
    else digest = await sha256(bytes);
    await take(step.start, bytes);
  }
  return hash?.digest() ?? digest;
}

/** Pieces of a part that are there and right, so that an interrupted fetch goes on where it stopped. */
async function piecesThere({ file: { size, key }, part, ports }: Omit<Coming, 'href'>): Promise<boolean[]> {
  const wanted = keyPieces(key);
  const entry = await ports.folder.stat(part);
  // What is longer than the file was never part of it.
  if (entry && entry.size > size) await ports.folder.remove(part);
  if (!entry || entry.size > size) return wanted.map(() => false);
  const file = await ports.folder.open(part);
  try {
    const there: boolean[] = [];
    for (const [i, piece] of wanted.entries()) {
      const range = pieceRange(size, i, keyPieceSize(key));
      there.push(range.end <= entry.size && (await hashSteps(file, range, ports)) === piece);
    }
    return there;
  } finally {
    file.close();
  }
}

/** Copies a piece that lies elsewhere into the part; false where it is not there any more as it was. */
async function reusePiece(
  source: PieceSource,
  { digest, start, end }: Piece,
  { part, ports }: Omit<Coming, 'href'>,
): Promise<boolean> {
  const range = { start: source.start, end: source.start + end - start };
  try {
    const file = await ports.from.open(source.path);
    try {
      const found = await hashSteps(file, range, ports, (at, bytes) =>
        ports.folder.writeAt(part, at - source.start + start, bytes),
      );
      return found === digest;
    } finally {
      file.close();
    }
  } catch (error) {
    if (isFailure(error) && error.code.startsWith('folder/') && error.code !== 'folder/full') return false;
    throw error;
  }
}

/** Puts a piece into the part as its bytes come. */
class PieceSink {
  #at: number;
  #buffer: Uint8Array<ArrayBuffer>;
  #filled = 0;
  readonly #hash: StreamHash | undefined;

  constructor(
    private readonly piece: Piece,
    private readonly coming: Coming,
  ) {
    this.#at = piece.start;
    const size = piece.end - piece.start;
    this.#hash = size <= HELD_WHOLE ? undefined : coming.ports.newHash();
    this.#buffer = new Uint8Array(this.#hash ? PIECE_SIZE : size);
  }

  async take(chunk: Uint8Array): Promise<void> {
    for (let from = 0; from < chunk.length;) {
      const some = chunk.subarray(from, from + this.#buffer.length - this.#filled);
      this.#buffer.set(some, this.#filled);
      this.#filled += some.length;
      from += some.length;
      if (this.#hash && this.#filled === this.#buffer.length) await this.#flush();
    }
  }

  /** @returns whether the bytes that came are the piece */
  async end(): Promise<boolean> {
    const { ports } = this.coming;
    if (this.#hash) {
      await this.#flush();
      return this.#hash.digest() === this.piece.digest;
    }
    if ((await ports.sha256(this.#buffer)) !== this.piece.digest) return false;
    await this.#write(this.#buffer);
    return true;
  }

  async #flush(): Promise<void> {
    const bytes = this.#buffer.subarray(0, this.#filled);
    this.#hash!.update(bytes);
    await this.#write(bytes);
    this.#filled = 0;
  }

  async #write(bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    await this.coming.ports.folder.writeAt(this.coming.part, this.#at, bytes);
    this.#at += bytes.length;
  }
}

/** Pieces as runs of neighbours that are asked for together. @param pieces in order */
function runsOf(pieces: Iterable<ByteRange>): ByteRange[] {
  const runs: { start: number; end: number }[] = [];
  for (const { start, end } of pieces) {
    const last = runs.at(-1);
    if (last?.end === start && end - last.start <= RUN_BYTES) last.end = end;
    else runs.push({ start, end });
  }
  return runs;
}

/**
 * Takes the pieces that are missing out of a file as it comes by; those that are right are missing no more.
 * @param run what is asked for; undefined = all of it
 */
async function sift(coming: Coming, missing: Map<number, Piece>, run: ByteRange | undefined): Promise<void> {
  const { file, ports, counts, throttle, tell } = coming;
  const pieceSize = keyPieceSize(file.key);
  const end = run?.end ?? file.size;
  let at = run?.start ?? 0;
  let sink: PieceSink | undefined;
  let bad: number | undefined;
  counts.requests += 1;
  /** Behind this nothing is missing. */
  const wantedUntil = [...missing.values()].reduce(
    (until, piece) => (piece.end <= end ? Math.max(until, piece.end) : until),
    0,
  );
  for await (const chunk of await ports.open(coming.href, run, ports.signal)) {
    assertGoing(ports.signal);
    counts.wireBytes += chunk.length;
    await throttle?.take(chunk.length);
    for (let from = 0; from < chunk.length && at < end;) {
      const index = Math.floor(at / pieceSize);
      const pieceEnd = Math.min(file.size, (index + 1) * pieceSize);
      const some = chunk.subarray(from, from + Math.min(chunk.length - from, pieceEnd - at));
      const piece = missing.get(index);
      if (piece && at === piece.start) {
        tell(index, 'arriving', 0);
        sink = new PieceSink(piece, coming);
      }
      await sink?.take(some);
      from += some.length;
      at += some.length;
      if (!piece || !sink || at < pieceEnd) continue;
      if (await sink.end()) {
        missing.delete(index);
        counts.fetchedBytes += piece.end - piece.start;
        tell(index, 'checked', piece.end - piece.start);
      } else {
        bad ??= index;
        tell(index, 'failing', 0);
      }
      sink = undefined;
    }
    // Of what nobody needs no more is listened to.
    if (at >= wantedUntil) break;
  }
  if (bad !== undefined) throw new Failure('service/corrupt-piece', { url: coming.href, piece: bad });
  if ([...missing.values()].some((piece) => piece.start >= (run?.start ?? 0) && piece.end <= end))
    throw new Failure('service/failed', {
      url: coming.href,
      expected: end - (run?.start ?? 0),
      found: at - (run?.start ?? 0),
    });
}

/** Asks for runs, some of them at once. One that fails keeps no other from coming. @returns the first failure */
async function siftRuns(coming: Coming, missing: Map<number, Piece>): Promise<unknown> {
  const runs = runsOf([...missing.values()].toSorted((a, b) => a.start - b.start));
  const isAll = runs.length === 1 && runs[0]!.end - runs[0]!.start === coming.file.size;
  let failure: unknown;
  const siftOne = async (run: ByteRange): Promise<void> => {
    try {
      await sift(coming, missing, isAll ? undefined : run);
    } catch (error) {
      // What concerns more than this file ends it all, such as a disk that is full.
      if (!isOfOneFile(error) && !isFailure(error, 'service/no-ranges')) throw error;
      failure ??= error;
    }
  };
  // The first one tells whether the source answers, and gives parts.
  await siftOne(runs[0]!);
  if (failure !== undefined && !isFailure(failure, 'service/corrupt-piece')) return failure;
  await inLanes(runs.slice(1), RUNS_AT_ONCE, { gate: () => assertGoing(coming.ports.signal) }, siftOne);
  return failure;
}

/**
 * Asks for pieces until all of them are right: a busy source and wrong bytes are waited out, a refusal is not. Where the file
 * is to be had from several sources, the next one is asked for what one has failed to give.
 */
async function fetchPieces(coming: Omit<Coming, 'href'>, missing: Map<number, Piece>): Promise<void> {
  const { file, ports, counts, tell } = coming;
  let hrefs = [file.href, ...(file.mirrors ?? [])];
  /** Sources that give no parts: of these all of the file is asked for. */
  const whole = new Set<string>();
  let tries = 0;
  while (missing.size > 0) {
    assertGoing(ports.signal);
    const href = hrefs[tries % hrefs.length]!;
    const before = missing.size;
    const failure = whole.has(href)
      ? await sift({ ...coming, href }, missing, undefined).catch((error: unknown) => error)
      : await siftRuns({ ...coming, href }, missing);
    if (missing.size === 0) return;
    if (isFailure(failure, 'service/no-ranges') && !whole.has(href)) {
      whole.add(href);
      continue;
    }
    if (!isOfOneFile(failure)) throw failure;
    for (const index of missing.keys()) tell(index, 'failing', 0);
    if (!isPassing(failure)) {
      hrefs = hrefs.filter((other) => other !== href);
      if (hrefs.length === 0) throw failure;
      continue;
    }
    if (isPutOff(failure)) counts.wasBusy = true;
    tries = missing.size < before ? 1 : tries + 1;
    if (tries >= MAX_TRIES * hrefs.length) throw failure;
    // Another source need not be waited for.
    if (tries % hrefs.length === 0) await ports.wait(100 * 2 ** (tries / hrefs.length));
  }
}

async function bringFile(coming: Omit<Coming, 'href'>): Promise<void> {
  const { file, part, ports, counts, tell } = coming;
  const there = await piecesThere(coming);
  const missing = new Map<number, Piece>();
  for (const [index, digest] of keyPieces(file.key).entries()) {
    const piece = { index, digest, ...pieceRange(file.size, index, keyPieceSize(file.key)) };
    const bytes = piece.end - piece.start;
    const source = file.sources[index];
    if (there[index]) {
      tell(index, 'on-hand', bytes);
    } else if (bytes === 0) {
      // Nothing has to come of an empty file.
      await putAnew(ports.folder, part, new Uint8Array(0));
      if ((await ports.sha256(new Uint8Array(0))) !== digest)
        throw new Failure('service/corrupt-piece', { url: file.href, piece: index });
      tell(index, 'checked', 0);
    } else if (source && (await reusePiece(source, piece, coming))) {
      counts.reusedBytes += bytes;
      tell(index, 'reused', bytes);
    } else if (file.href === '') {
      throw new Failure('folder/changed-meanwhile', { path: source?.path ?? file.name });
    } else missing.set(index, piece);
  }
  await fetchPieces(coming, missing);
  await ports.folder.takeIn(file.name, file.key);
}

/** Takes small files out of a pack as it comes by. @returns the places in the haul of those that came */
async function bringPack(
  files: readonly HaulFile[],
  { href, start, end }: PackRange,
  { ports, counts, throttle }: Pick<Coming, 'ports' | 'counts' | 'throttle'>,
): Promise<Set<number>> {
  const came = new Set<number>();
  const inOrder = [...files.entries()].toSorted(([, a], [, b]) => (a.packedAt ?? 0) - (b.packedAt ?? 0));
  let at = start;
  let next = 0;
  let bytes = new Uint8Array(inOrder[0]?.[1].size ?? 0);
  const take = async (chunk: Uint8Array): Promise<void> => {
    for (let from = 0; from < chunk.length;) {
      const [i, file] = inOrder[next] ?? [];
      if (i === undefined || !file) return;
      const begin = file.packedAt ?? 0;
      const skipped = Math.min(chunk.length - from, Math.max(0, begin - at));
      const some = chunk.subarray(from + skipped, from + skipped + begin + file.size - Math.max(at, begin));
      bytes.set(some, Math.max(at, begin) - begin);
      from += skipped + some.length;
      at += skipped + some.length;
      if (at < begin + file.size) continue;
      if ((await ports.sha256(bytes)) === keyPieces(file.key)[0]) {
        await putAnew(ports.folder, arrivingPath(file.name), bytes);
        await ports.folder.takeIn(file.name, file.key);
        counts.fetchedBytes += file.size;
        came.add(i);
        ports.progress({ file: i, index: 0, state: 'checked', bytes: file.size, soFar: soFar(counts) });
      }
      bytes = new Uint8Array(inOrder[++next]?.[1].size ?? 0);
    }
  };
  counts.requests += 1;
  try {
    for await (const chunk of await ports.open(href, { start, end }, ports.signal)) {
      assertGoing(ports.signal);
      counts.wireBytes += chunk.length;
      await throttle?.take(chunk.length);
      await take(chunk);
      if (next >= inOrder.length) break;
    }
  } catch (error) {
    // What does not come out of the pack is asked for by itself.
    if (!isOfOneFile(error) && !isFailure(error, 'service/no-ranges')) throw error;
    if (isPutOff(error)) counts.wasBusy = true;
  }
  return came;
}

/**
 * Brings files into the store of a disk. One that cannot be had is told, and keeps no other from coming.
 * @throws Failure `job/cancelled`, `folder/*`, and whatever of the sources concerns more than one file
 */
export async function bring({ files, pack }: Haul, ports: BringPorts): Promise<Brought> {
  const counts: Counts = { ...NOTHING_BROUGHT, wasBusy: false };
  const throttle = ports.bytesPerSecond === undefined ? undefined : new Throttle(ports.bytesPerSecond, ports);
  const failed: { file: number; failure: WireFailure }[] = [];
  const came = pack ? await bringPack(files, pack, { ports, counts, throttle }) : undefined;
  await inLanes(files, FILES_AT_ONCE, { gate: () => assertGoing(ports.signal) }, async (file, i) => {
    if (came?.has(i)) return;
    const tell: Coming['tell'] = (index, state, bytes) =>
      ports.progress({ file: i, index, state, bytes, soFar: soFar(counts) });
    try {
      await bringFile({ file, part: arrivingPath(file.name), ports, counts, throttle, tell });
    } catch (error) {
      if (isFailure(error, 'folder/not-found') && (await ports.folder.stat(contentPath(file.name)))) {
        // Another fetch of the same content, of another page, has taken it in meanwhile.
        for (const [index, { start, end }] of piecesOf(file).entries()) tell(index, 'on-hand', end - start);
        return;
      }
      if (!isOfOneFile(error)) throw error;
      failed.push({ file: i, failure: failureToWire(error) });
    }
  });
  return { ...counts, failed: failed.toSorted((a, b) => a.file - b.file) };
}
