import { type ContentKey, contentKey, keyPieces, PIECE_SIZE, pieceCount, pieceRange, type Sha256 } from '#core/digest';
import { Failure, failureToWire, isFailure } from '#core/failure';
import type { Folder } from '~/folders';
import type { DiskProgress, DiskResults, DiskTask, HashResult, PieceState } from './protocol';

/** What the tasks need of the platform; tests hand in their own. */
export interface DiskPorts {
  readonly folder: Folder;
  readonly sha256: Sha256;
  readonly getBytes: (
    href: string,
    size: number,
    options: { start?: number; end?: number; token?: string | undefined; signal: AbortSignal },
  ) => Promise<Uint8Array<ArrayBuffer>>;
  /** The bytes of several files after one another, `size` in all. */
  readonly getPack: (hrefs: readonly string[], size: number, signal: AbortSignal) => Promise<Uint8Array<ArrayBuffer>>;
  readonly wait: (milliseconds: number) => Promise<void>;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

const PIECES_AT_ONCE = 4;
const MAX_TRIES = 6;
const FILES_AT_ONCE = 8;

/** The key of a content, hashed piece by piece, a few of them at once. */
export async function hashFile(
  folder: Folder,
  sha256: Sha256,
  path: string,
): Promise<{ size: number; key: ContentKey }> {
  const file = await folder.open(path);
  try {
    const pieces: string[] = [];
    for (let first = 0; first < pieceCount(file.size); first += PIECES_AT_ONCE) {
      const last = Math.min(pieceCount(file.size), first + PIECES_AT_ONCE);
      const some = Array.from({ length: last - first }, async (_, i) => {
        const { start, end } = pieceRange(file.size, first + i);
        const bytes = await file.read(start, end);
        if (bytes.length < end - start) throw new Failure('folder/changed-meanwhile', { path });
        return sha256(bytes);
      });
      pieces.push(...(await Promise.all(some)));
    }
    return { size: file.size, key: contentKey(file.size, pieces) };
  } finally {
    file.close();
  }
}

async function keyOf(bytes: Uint8Array<ArrayBuffer>, sha256: Sha256): Promise<ContentKey> {
  const pieces = Array.from({ length: pieceCount(bytes.length) }, (_, i) => {
    const { start, end } = pieceRange(bytes.length, i);
    return sha256(bytes.subarray(start, end));
  });
  return contentKey(bytes.length, await Promise.all(pieces));
}

function assertGoing(signal: AbortSignal): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/**
 * Does `work` for each file, several at a time, stopping once the task is cancelled. Opening a small file takes longer
 * than hashing or writing it: while one is opened, others are worked on.
 */
async function eachFile<T>(
  files: readonly T[],
  signal: AbortSignal,
  work: (file: T, index: number) => Promise<void>,
): Promise<void> {
  const queue = files.entries();
  const lane = async (): Promise<void> => {
    for (const [index, file] of queue) {
      assertGoing(signal);
      await work(file, index);
    }
  };
  // All lanes end before the task does: none may still write when the job already puts things back.
  const outcomes = await Promise.allSettled(Array.from({ length: FILES_AT_ONCE }, lane));
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
}

async function hashFiles({ files }: Extract<DiskTask, { do: 'hash' }>, ports: DiskPorts): Promise<HashResult> {
  const keys = files.map((): ContentKey | undefined => undefined);
  const sizes = files.map(({ size }) => size);
  const unreadable: { path: string; failure: ReturnType<typeof failureToWire> }[] = [];
  await eachFile(files, ports.signal, async ({ path }, i) => {
    try {
      const { size, key } = await hashFile(ports.folder, ports.sha256, path);
      keys[i] = key;
      sizes[i] = size;
    } catch (error) {
      unreadable.push({ path, failure: failureToWire(error) });
    }
    ports.progress({ kind: 'bytes', files: 1, bytes: sizes[i]! });
  });
  return { keys, sizes, unreadable };
}

/** Pieces of a `.part` that are there and right, so that an interrupted fetch goes on where it stopped. */
async function piecesThere(
  part: string,
  size: number,
  wanted: readonly string[],
  ports: DiskPorts,
): Promise<boolean[]> {
  const entry = await ports.folder.stat(part);
  if (!entry) return wanted.map(() => false);
  const there: boolean[] = [];
  for (const [i, piece] of wanted.entries()) {
    const { start, end } = pieceRange(size, i);
    there.push(end <= entry.size && (await ports.sha256(await ports.folder.read(part, start, end))) === piece);
  }
  return there;
}

async function fetchFile(task: Extract<DiskTask, { do: 'fetch' }>, ports: DiskPorts): Promise<DiskResults['fetch']> {
  const { folder, sha256 } = ports;
  const wanted = keyPieces(task.key);
  const part = `${task.to}.part`;
  const there = await piecesThere(part, task.size, wanted, ports);
  const result = { fetchedBytes: 0, reusedBytes: 0 };
  const tell = (index: number, state: PieceState, bytes: number): void =>
    ports.progress({ kind: 'piece', index, state, bytes });

  const reuse = async (index: number, bytes: number): Promise<boolean> => {
    const source = task.sources[index];
    if (!source) return false;
    const start = source.index * PIECE_SIZE;
    const copy = await folder.read(source.path, start, start + bytes).catch(() => undefined);
    if (!copy || (await sha256(copy)) !== wanted[index]) return false;
    await folder.writeAt(part, index * PIECE_SIZE, copy);
    return true;
  };

  for (const [index, piece] of wanted.entries()) {
    const { start, end } = pieceRange(task.size, index);
    if (there[index]) {
      tell(index, 'checked', end - start);
    } else if (await reuse(index, end - start)) {
      result.reusedBytes += end - start;
      tell(index, 'reused', end - start);
    } else {
      const bytes = await fetchPiece(task, { index, start, end, digest: piece }, ports, tell);
      await folder.writeAt(part, start, bytes);
      result.fetchedBytes += end - start;
      tell(index, 'checked', end - start);
    }
  }
  // A part may be longer than the file when an earlier, different fetch was broken off.
  if ((await folder.stat(part))?.size !== task.size)
    await folder.writeWhole(part, await folder.read(part, 0, task.size));
  await folder.move(part, task.to);
  return result;
}

/** Asks for a piece until its bytes are right: a busy service and a corrupt piece are waited out, a refusal is not. */
async function fetchPiece(
  task: Extract<DiskTask, { do: 'fetch' }>,
  { index, start, end, digest }: { index: number; start: number; end: number; digest: string },
  ports: DiskPorts,
  tell: (index: number, state: PieceState, bytes: number) => void,
): Promise<Uint8Array<ArrayBuffer>> {
  for (let tries = 1; ; tries++) {
    assertGoing(ports.signal);
    tell(index, 'arriving', 0);
    try {
      const { token } = task;
      const bytes = await ports.getBytes(task.href, task.size, { start, end, token, signal: ports.signal });
      if ((await ports.sha256(bytes)) === digest) return bytes;
      throw new Failure('service/corrupt-piece', { url: task.href, piece: index });
    } catch (error) {
      const passing =
        isFailure(error, 'service/failed') ||
        isFailure(error, 'service/corrupt-piece') ||
        isFailure(error, 'service/unreachable');
      if (!passing || tries >= MAX_TRIES) throw error;
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

async function layFiles({ files }: Extract<DiskTask, { do: 'lay' }>, ports: DiskPorts): Promise<void> {
  await eachFile(files, ports.signal, async ({ from, text, to, key }) => {
    const bytes = from === undefined ? new TextEncoder().encode(text) : await ports.folder.read(from);
    const found = await keyOf(bytes, ports.sha256);
    if (found !== key) throw new Failure('folder/changed-meanwhile', { path: from ?? to, expected: key, found });
    await ports.folder.writeWhole(to, bytes);
    ports.progress({ kind: 'bytes', files: 1, bytes: bytes.length });
  });
}

export async function doDiskTask(task: DiskTask, ports: DiskPorts): Promise<DiskResults[DiskTask['do']]> {
  switch (task.do) {
    case 'hash':
      return hashFiles(task, ports);
    case 'fetch':
      return fetchFile(task, ports);
    case 'download':
      return download(task, ports).then(() => ({}));
    case 'lay':
      return layFiles(task, ports).then(() => ({}));
  }
}
