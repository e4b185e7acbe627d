import { assertGoing, inLanes } from '#core/calls';
import { arrivingPath } from '#core/contents';
import { keyPieces, keyPieceSize, PIECE_SIZE, pieceRange } from '#core/digest';
import { Failure, failureToWire, isFailure, type WireFailure } from '#core/failure';
import type { OpenFile } from '#core/folders';
import {
  type BringPorts,
  type Brought,
  type Coming,
  type Counts,
  MAX_TRIES,
  NOTHING_BROUGHT,
  putAnew,
  soFar,
  type StreamHash,
  wasTakenIn,
} from './bring-ports';
import { ByFrames } from './bring-frames';
import type { Haul } from './hauls';
import { isOfOneFile, isPassing, isPutOff } from './passing';
import { type ByteRange, runsOf } from './runs';
import { Throttle } from './throttle';
import type { PieceSource } from './what-to-fetch';

/*
 * Brings files to a disk: from where pieces of them lie already, and from their sources. Each piece counts only once its bytes
 * are right; what has come stays when the rest does not.
 */

/** Files of a haul at once, and requests for parts of one large file. */
const FILES_AT_ONCE = 4;
const RUNS_AT_ONCE = 4;
/** Pieces up to this size are held whole, so that a wrong one is not even written. */
const HELD_WHOLE = 8 << 20;

/** A file that comes from one of its sources just now. */
interface FromSource extends Coming {
  readonly href: string;
}

interface Piece extends ByteRange {
  readonly index: number;
  readonly digest: string;
}

/** Bytes `[start, end)` in steps that fit into memory. */
function* steps({ start, end }: ByteRange): Generator<ByteRange> {
  for (let at = start; at < end || at === start; at += HELD_WHOLE)
    yield { start: at, end: Math.min(end, at + HELD_WHOLE) };
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

/** Pieces of a part that are there and right, which is told, so that an interrupted fetch goes on where it stopped. */
async function piecesThere({ file: { size, key }, part, ports, tell }: Coming): Promise<boolean[]> {
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
      const isThere = range.end <= entry.size && (await hashSteps(file, range, ports)) === piece;
      if (isThere) tell(i, 'on-hand', range.end - range.start);
      there.push(isThere);
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
  { part, ports }: Coming,
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
    // A folder beside the disk may be out of reach altogether; what keeps the part from being written ends it.
    const isOfSource =
      isFailure(error) &&
      error.code !== 'folder/full' &&
      error.code !== 'job/cancelled' &&
      (source.beside !== undefined || error.code.startsWith('folder/'));
    if (isOfSource) return false;
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

/**
 * Takes the pieces that are missing out of a file as it comes by; those that are right are missing no more.
 * @param run what is asked for; undefined = all of it
 */
async function sift(coming: FromSource, missing: Map<number, Piece>, run: ByteRange | undefined): Promise<void> {
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
async function siftRuns(coming: FromSource, missing: Map<number, Piece>): Promise<unknown> {
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
async function fetchPieces(coming: Coming, missing: Map<number, Piece>): Promise<void> {
  const { file, ports, counts, tell } = coming;
  let hrefs = [file.href, ...(file.mirrors ?? [])];
  /** Sources that give no parts: of these all of the file is asked for. */
  const whole = new Set(file.inWhole ? [file.href] : []);
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

/** @param there pieces that are in the part, and right */
async function bringFile(coming: Coming, there: readonly boolean[]): Promise<void> {
  const { file, part, ports, counts, tell } = coming;
  const missing = new Map<number, Piece>();
  for (const [index, digest] of keyPieces(file.key).entries()) {
    const piece = { index, digest, ...pieceRange(file.size, index, keyPieceSize(file.key)) };
    const bytes = piece.end - piece.start;
    const source = file.sources[index];
    if (there[index]) continue;
    if (bytes === 0) {
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

/**
 * Brings files into the store of a disk. One that cannot be had is told, and keeps no other from coming.
 * @throws Failure `job/cancelled`, `folder/*`, and whatever of the sources concerns more than one file
 */
export async function bring({ files, frames = [] }: Haul, ports: BringPorts): Promise<Brought> {
  const counts: Counts = { ...NOTHING_BROUGHT, wasBusy: false };
  const throttle = ports.bytesPerSecond === undefined ? undefined : new Throttle(ports.bytesPerSecond, ports);
  const coming = files.map((file, i): Coming => ({
    ...{ file, part: arrivingPath(file.name), ports, counts, throttle },
    tell: (index, state, bytes) => ports.progress({ file: i, index, state, bytes, soFar: soFar(counts) }),
  }));
  const byFrames = frames.length > 0 ? new ByFrames(coming) : undefined;
  if (byFrames) {
    const large = coming.filter(({ file }) => keyPieces(file.key).length > 1);
    for (const one of large) byFrames.begin(one, await piecesThere(one));
    await byFrames.bring(frames);
  }
  const failed: { file: number; failure: WireFailure }[] = [];
  await inLanes(coming, FILES_AT_ONCE, { gate: () => assertGoing(ports.signal) }, async (one, i) => {
    if (byFrames?.isDone(one)) return;
    try {
      await bringFile(one, byFrames?.piecesOf(one) ?? (await piecesThere(one)));
    } catch (error) {
      if (await wasTakenIn(one, error)) return;
      if (!isOfOneFile(error)) throw error;
      failed.push({ file: i, failure: failureToWire(error) });
    }
  });
  return { ...counts, failed: failed.toSorted((a, b) => a.file - b.file) };
}
