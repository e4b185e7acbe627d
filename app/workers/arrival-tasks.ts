import { sha256 as streamedSha256 } from '@noble/hashes/sha2.js';
import { keyPieces, keyPieceSize, pieceRange, type Sha256, toHex, PIECE_SIZE } from '#core/digest';
import { isPassing, type PieceSource } from '#core/fetch';
import { Failure, isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { arrivingPath } from '#core/contents';
import type { ArrivalFolder } from '~/folders';
import { assertGoing, eachFile } from './each-file';
import { digestOf } from './look-tasks';
import type { ArrivalTask, DiskProgress, DiskResults, DiskTask, PieceState } from './protocol';

/** What the tasks that take in what arrives need of the platform; tests hand in their own. */
export interface DiskPorts {
  readonly folder: ArrivalFolder;
  /** The folder that pieces are taken from that lie elsewhere on the disk, or on another one. */
  readonly from: Pick<FolderReader, 'open'>;
  readonly sha256: Sha256;
  readonly getBytes: (
    href: string,
    size: number,
    options: { start?: number; end?: number; token?: string | undefined; signal: AbortSignal },
  ) => Promise<Uint8Array<ArrayBuffer>>;
  /** A whole file as it comes, for a source that gives no parts. */
  readonly getStream: (
    href: string,
    options: { token?: string | undefined; signal: AbortSignal },
  ) => Promise<AsyncIterable<Uint8Array<ArrayBuffer>>>;
  /** The bytes of several files after one another, `size` in all. */
  readonly getPack: (hrefs: readonly string[], size: number, signal: AbortSignal) => Promise<Uint8Array<ArrayBuffer>>;
  readonly wait: (milliseconds: number) => Promise<void>;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

/** How often something is asked for before it is left to a later round. */
const MAX_TRIES = 4;

/** What is asked for, read and written at a time, of a piece of any size. */
const BYTES_AT_ONCE = 8 << 20;

/** Bytes `[start, end)` in steps that fit into memory. */
function* steps({ start, end }: Range): Generator<Range> {
  for (let at = start; at < end || at === start; at += BYTES_AT_ONCE)
    yield { start: at, end: Math.min(end, at + BYTES_AT_ONCE) };
}

interface Range {
  readonly start: number;
  readonly end: number;
}

/** Pieces of a `.part` that are there and right, so that an interrupted fetch goes on where it stopped. */
async function piecesThere(part: string, { size, key }: FetchTask, ports: DiskPorts): Promise<boolean[]> {
  const wanted = keyPieces(key);
  const entry = await ports.folder.stat(part);
  if (!entry) return wanted.map(() => false);
  const file = await ports.folder.open(part);
  try {
    const there: boolean[] = [];
    for (const [i, piece] of wanted.entries()) {
      const range = pieceRange(size, i, keyPieceSize(key));
      there.push(range.end <= entry.size && (await digestOf(file, part, range, ports)) === piece);
    }
    return there;
  } finally {
    file.close();
  }
}

/** Copies a piece that lies elsewhere on the disk into the part; false where it is not there any more as it was. */
async function reusePiece(
  source: PieceSource,
  { digest, start, end }: Piece,
  part: string,
  ports: DiskPorts,
): Promise<boolean> {
  const from = source.start - start;
  try {
    const file = await ports.from.open(source.path);
    try {
      const range = { start: source.start, end: end + from };
      const hash = streamedSha256.create();
      for (const step of steps(range)) {
        const bytes = await file.read(step.start, step.end);
        if (end - start <= BYTES_AT_ONCE && (await ports.sha256(bytes)) !== digest) return false;
        if (end - start > BYTES_AT_ONCE) hash.update(bytes);
        await ports.folder.writeAt(part, step.start - from, bytes);
      }
      return end - start <= BYTES_AT_ONCE || toHex(hash.digest()) === digest;
    } finally {
      file.close();
    }
  } catch (error) {
    if (isFailure(error) && error.code.startsWith('folder/') && error.code !== 'folder/full') return false;
    throw error;
  }
}

type FetchTask = Extract<DiskTask, { do: 'fetch' }>;

interface Piece extends Range {
  readonly index: number;
  readonly digest: string;
}

type TellPiece = (index: number, state: PieceState, bytes: number) => void;

async function fetchFile(task: FetchTask, ports: DiskPorts): Promise<DiskResults['fetch']> {
  const { folder } = ports;
  const part = arrivingPath(task.name);
  const there = await piecesThere(part, task, ports);
  const result = { fetchedBytes: 0, reusedBytes: 0 };
  const tell: TellPiece = (index, state, bytes) => ports.progress({ kind: 'piece', index, state, bytes });
  // Of a source that gives no parts, what is missing comes in one go at the end.
  let whole = false;
  const missing = new Map<number, Piece>();
  for (const [index, digest] of keyPieces(task.key).entries()) {
    const piece = { index, digest, ...pieceRange(task.size, index, keyPieceSize(task.key)) };
    const bytes = piece.end - piece.start;
    const source = task.sources[index];
    if (there[index]) {
      tell(index, 'checked', bytes);
    } else if (source && (await reusePiece(source, piece, part, ports))) {
      result.reusedBytes += bytes;
      tell(index, 'reused', bytes);
    } else if (task.href === '') {
      throw new Failure('folder/changed-meanwhile', { path: source?.path ?? task.name });
    } else if (whole || !(await fetchPiece(task, piece, part, ports, tell))) {
      whole = true;
      missing.set(index, piece);
    } else {
      result.fetchedBytes += bytes;
      tell(index, 'checked', bytes);
    }
  }
  if (whole) result.fetchedBytes += await fetchWhole(task, missing, part, ports, tell);
  // A part may be longer than the file when an earlier, different fetch was broken off.
  if ((await folder.stat(part))?.size !== task.size)
    await folder.writeWhole(part, await folder.read(part, 0, task.size));
  await folder.takeIn(task.name, task.key);
  return result;
}

/** Asks for bytes and puts them into the part. @returns their SHA-256 */
async function receive(task: FetchTask, piece: Piece, part: string, ports: DiskPorts): Promise<string> {
  const { href, size, token } = task;
  const get = (range: Range): Promise<Uint8Array<ArrayBuffer>> =>
    ports.getBytes(href, size, { ...range, token, signal: ports.signal });
  if (piece.end - piece.start <= BYTES_AT_ONCE) {
    const bytes = await get(piece);
    const found = await ports.sha256(bytes);
    // What is wrong is not even written.
    if (found === piece.digest) await ports.folder.writeAt(part, piece.start, bytes);
    return found;
  }
  const hash = streamedSha256.create();
  for (const step of steps(piece)) {
    assertGoing(ports.signal);
    const bytes = await get(step);
    hash.update(bytes);
    await ports.folder.writeAt(part, step.start, bytes);
  }
  return toHex(hash.digest());
}

const bytesOf = async (chunks: readonly Uint8Array<ArrayBuffer>[]): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await new Blob([...chunks]).arrayBuffer());

/** Takes the pieces that are missing out of the file as it comes by; those that are right are missing no more. */
async function sift(
  task: FetchTask,
  missing: Map<number, Piece>,
  part: string,
  ports: DiskPorts,
  tell: TellPiece,
): Promise<void> {
  const { href, size, key, token } = task;
  const { signal } = ports;
  const pieceSize = keyPieceSize(key);
  let at = 0;
  let hash = streamedSha256.create();
  let put: { waiting: Uint8Array<ArrayBuffer>[]; bytes: number } = { waiting: [], bytes: 0 };
  for await (const chunk of await ports.getStream(href, { token, signal })) {
    assertGoing(signal);
    for (let from = 0; from < chunk.length && at < size;) {
      const index = Math.floor(at / pieceSize);
      const end = Math.min(size, (index + 1) * pieceSize);
      const some = chunk.subarray(from, from + Math.min(chunk.length - from, end - at));
      const piece = missing.get(index);
      if (piece) {
        if (at === piece.start) tell(index, 'arriving', 0);
        hash.update(some);
        const { waiting } = put;
        waiting.push(some);
        put.bytes += some.length;
        if (put.bytes >= PIECE_SIZE || at + some.length === end) {
          // Chunks are small, and each write opens the file.
          await ports.folder.writeAt(part, at + some.length - put.bytes, await bytesOf(waiting));
          put = { waiting: [], bytes: 0 };
        }
      }
      from += some.length;
      at += some.length;
      if (piece && at === end) {
        if (toHex(hash.digest()) === piece.digest) {
          missing.delete(index);
          tell(index, 'checked', piece.end - piece.start);
        } else tell(index, 'failing', 0);
        hash = streamedSha256.create();
      }
    }
    if (missing.size === 0) return;
    // What comes behind the file's end is nobody's.
    if (at === size) break;
  }
  if (at < size) throw new Failure('service/failed', { url: href, expected: size, found: at });
  const [bad] = missing.keys();
  if (bad !== undefined) throw new Failure('service/corrupt-piece', { url: href, piece: bad });
}

/** Fetches a file whole until all that is missing of it is right. @returns bytes that came of that */
async function fetchWhole(
  task: FetchTask,
  missing: Map<number, Piece>,
  part: string,
  ports: DiskPorts,
  tell: TellPiece,
): Promise<number> {
  const bytes = [...missing.values()].reduce((sum, { start, end }) => sum + end - start, 0);
  for (let tries = 1; ; tries++) {
    assertGoing(ports.signal);
    try {
      await sift(task, missing, part, ports, tell);
      return bytes;
    } catch (error) {
      if (!isPassing(error) || tries >= MAX_TRIES) throw error;
      await ports.wait(100 * 2 ** tries);
    }
  }
}

/**
 * Asks for a piece until its bytes are right: a busy service and a corrupt piece are waited out, a refusal is not.
 * @returns false where the source gives no parts
 */
async function fetchPiece(
  task: FetchTask,
  piece: Piece,
  part: string,
  ports: DiskPorts,
  tell: TellPiece,
): Promise<boolean> {
  const { index, digest } = piece;
  for (let tries = 1; ; tries++) {
    assertGoing(ports.signal);
    tell(index, 'arriving', 0);
    try {
      if ((await receive(task, piece, part, ports)) === digest) return true;
      throw new Failure('service/corrupt-piece', { url: task.href, piece: index });
    } catch (error) {
      if (isFailure(error, 'service/no-ranges')) return false;
      if (!isPassing(error) || tries >= MAX_TRIES) throw error;
      tell(index, 'failing', 0);
      await ports.wait(100 * 2 ** tries);
    }
  }
}

/** One request for all files of the batch: for a thousand small ones the requests cost more than the bytes. */
async function download({ files }: Extract<DiskTask, { do: 'download' }>, ports: DiskPorts): Promise<void> {
  assertGoing(ports.signal);
  const total = files.reduce((sum, { size }) => sum + size, 0);
  const hrefs = files.map(({ href }) => href);
  const bytes = await ports.getPack(hrefs, total, ports.signal);
  let at = 0;
  const parts = files.map(({ to, size }) => ({ to, bytes: bytes.subarray(at, (at += size)) }));
  await eachFile(parts, ports.signal, async ({ to, bytes: own }) => {
    await ports.folder.writeWhole(to, own);
    ports.progress({ kind: 'bytes', files: 1, bytes: own.length });
  });
}

/** @throws Failure `folder/*`, `service/*`, `job/cancelled` */
export async function takeIn(task: ArrivalTask, ports: DiskPorts): Promise<DiskResults[ArrivalTask['do']]> {
  switch (task.do) {
    case 'fetch':
      return fetchFile(task, ports);
    case 'download':
      return download(task, ports).then(() => ({}));
  }
}
