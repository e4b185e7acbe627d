import { type ContentKey, contentKey, keyPieces, PIECE_SIZE, pieceCount, pieceRange, type Sha256 } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { type Folder, partPath } from '~/folders';
import { assertGoing, eachFile } from './each-file';
import type { ChangeTask, DiskProgress, DiskResults, DiskTask, PieceState } from './protocol';

/** What the tasks that change a disk need of the platform; tests hand in their own. */
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

const MAX_TRIES = 6;

async function keyOf(bytes: Uint8Array<ArrayBuffer>, sha256: Sha256): Promise<ContentKey> {
  const pieces = Array.from({ length: pieceCount(bytes.length) }, (_, i) => {
    const { start, end } = pieceRange(bytes.length, i);
    return sha256(bytes.subarray(start, end));
  });
  return contentKey(bytes.length, await Promise.all(pieces));
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
  const part = partPath(task.to);
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

/** @throws Failure `folder/*`, `service/*`, `job/cancelled` */
export async function changeDisk(task: ChangeTask, ports: DiskPorts): Promise<DiskResults[ChangeTask['do']]> {
  switch (task.do) {
    case 'fetch':
      return fetchFile(task, ports);
    case 'download':
      return download(task, ports).then(() => ({}));
    case 'lay':
      return layFiles(task, ports).then(() => ({}));
  }
}
