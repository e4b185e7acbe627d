import { sha256 as streamedSha256 } from '@noble/hashes/sha2.js';
import { PIECE_SIZE, pieceCount, pieceRange, type Sha256, toHex } from '#core/digest';
import { Failure, failureToWire, isFailure, type WireFailure } from '#core/failure';
import type { FolderReader, HashWish, OpenFile } from '#core/folders';
import { assertGoing } from '#core/calls';
import { eachFile } from './each-file';
import type { DiskProgress, DiskResults, HashResult, Listing, LookTask } from './protocol';

/** What the tasks that look at a folder need of the platform; tests hand in their own. */
export interface LookPorts {
  readonly reader: Pick<FolderReader, 'open' | 'hash' | 'list'>;
  readonly sha256: Sha256;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

/** Bytes that are read before their digests are waited for. */
const BYTES_AT_ONCE = 4 * PIECE_SIZE;
/** Larger pieces are read bit by bit: the platform's digest takes only what lies in memory at once. */
const LARGEST_AT_ONCE = 16 * PIECE_SIZE;

/** Memory for pieces that nobody reads just now: to make and to clear it anew takes a tenth of the time of hashing. */
const spare: Uint8Array<ArrayBuffer>[] = [];

type Ports = Omit<LookPorts, 'reader'> & { readonly reader: Pick<FolderReader, 'open'> };

/** Bytes `[start, end)` of a file, all of them. @throws Failure `folder/changed-meanwhile` where it ends earlier */
async function readAll(
  file: OpenFile,
  path: string,
  { start, end }: { start: number; end: number },
  memory?: Uint8Array<ArrayBuffer>,
): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = await file.read(start, end, memory);
  if (bytes.length < end - start) throw new Failure('folder/changed-meanwhile', { path });
  return bytes;
}

/** The SHA-256 of bytes `[start, end)` of an open file, of any number. @throws Failure `folder/changed-meanwhile` */
export async function digestOf(
  file: OpenFile,
  path: string,
  range: { start: number; end: number },
  { sha256 }: Pick<Ports, 'sha256'>,
): Promise<string> {
  const length = range.end - range.start;
  if (length > LARGEST_AT_ONCE) {
    const hash = streamedSha256.create();
    for (let start = range.start; start < range.end; start += PIECE_SIZE) {
      hash.update(await readAll(file, path, { start, end: Math.min(range.end, start + PIECE_SIZE) }));
    }
    return toHex(hash.digest());
  }
  if (length > PIECE_SIZE) return sha256(await readAll(file, path, range));
  const memory = spare.pop() ?? new Uint8Array(PIECE_SIZE);
  try {
    // Not awaited here: the bytes are taken over by now, and the memory is free.
    return sha256(await readAll(file, path, range, memory));
  } finally {
    spare.push(memory);
  }
}

/**
 * The SHA-256 of a file's pieces, or of those of its span, a few of them at once.
 * @throws Failure `folder/*`; `folder/changed-meanwhile` where the file is not as large as the span was cut for
 */
export async function hashFile(
  { path, size: expected, span, pieceSize = PIECE_SIZE }: HashWish,
  ports: Ports,
): Promise<{ size: number; pieces: string[] }> {
  const { reader, progress, signal } = ports;
  const file = await reader.open(path, expected);
  try {
    const { size } = file;
    if (span && size !== expected) throw new Failure('folder/changed-meanwhile', { path });
    const { first: from, end: to } = span ?? { first: 0, end: pieceCount(size, pieceSize) };
    const atOnce = Math.max(1, BYTES_AT_ONCE / pieceSize);
    const pieces: string[] = [];
    for (let first = from; first < to; first += atOnce) {
      assertGoing(signal);
      const last = Math.min(to, first + atOnce);
      const some = Array.from({ length: last - first }, (_, i) =>
        digestOf(file, path, pieceRange(size, first + i, pieceSize), ports),
      );
      pieces.push(...(await Promise.all(some)));
      const done = pieceRange(size, last - 1, pieceSize).end - pieceRange(size, first, pieceSize).start;
      progress({ kind: 'bytes', files: 0, bytes: done });
    }
    return { size, pieces };
  } finally {
    file.close();
  }
}

/**
 * Hashes files; one that cannot be read comes back as itself, and the rest goes on. Bytes are reported as they are
 * read; that a file is done is for the caller to say, who knows its spans.
 * @throws Failure `job/cancelled`
 */
export async function hashFiles(
  files: readonly HashWish[],
  ports: Omit<LookPorts, 'reader'> & { readonly reader: Pick<FolderReader, 'open' | 'hash'> },
): Promise<HashResult> {
  const unreadable: { path: string; failure: ReturnType<typeof failureToWire> }[] = [];
  const refuse = (path: string, error: unknown): undefined =>
    void unreadable.push({ path, failure: failureToWire(error) });
  if (ports.reader.hash) {
    const outcomes = await ports.reader.hash(files, ports.signal, (outcome) => {
      if ('bytes' in outcome) ports.progress({ kind: 'bytes', files: 0, bytes: outcome.bytes });
    });
    const contents = outcomes.map((outcome, i) => {
      const { path } = files[i]!;
      return 'code' in outcome ? refuse(path, new Failure(outcome.code, { path })) : outcome;
    });
    return { contents, unreadable };
  }
  const contents = files.map((): HashResult['contents'][number] => undefined);
  await eachFile(files, ports.signal, async (file, i) => {
    try {
      contents[i] = await hashFile(file, ports);
    } catch (error) {
      if (isFailure(error, 'job/cancelled')) throw error;
      refuse(file.path, error);
    }
  });
  return { contents, unreadable };
}

async function listFiles(root: string, { reader, progress }: LookPorts): Promise<Listing> {
  const unreadable: { path: string; failure: WireFailure }[] = [];
  const entries = await reader.list(root, {
    found: (files) => progress({ kind: 'bytes', files, bytes: 0 }),
    refused: (path, code) => void unreadable.push({ path, failure: failureToWire(new Failure(code, { path })) }),
  });
  return {
    unreadable,
    paths: entries.map(({ path }) => path),
    sizes: Float64Array.from(entries, ({ size }) => size),
    modified: Float64Array.from(entries, ({ modified }) => modified),
  };
}

/** @throws Failure `folder/*`, `job/cancelled` */
export async function lookAtFolder(task: LookTask, ports: LookPorts): Promise<DiskResults[LookTask['do']]> {
  switch (task.do) {
    case 'list':
      return listFiles(task.root, ports);
    case 'hash':
      return hashFiles(task.files, ports);
  }
}
