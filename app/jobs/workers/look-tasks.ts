import { PIECE_SIZE, pieceCount, pieceRange, type Sha256 } from '#core/digest';
import { Failure, failureToWire, isFailure } from '#core/failure';
import type { FolderReader, HashWish } from '~/folders';
import { assertGoing, eachFile } from './each-file';
import type { DiskProgress, DiskResults, HashResult, Listing, LookTask } from './protocol';

/** What the tasks that look at a folder need of the platform; tests hand in their own. */
export interface LookPorts {
  readonly reader: Pick<FolderReader, 'open' | 'hash' | 'list'>;
  readonly sha256: Sha256;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

const PIECES_AT_ONCE = 4;

/** Memory for pieces that nobody reads just now: to make and to clear it anew takes a tenth of the time of hashing. */
const spare: Uint8Array<ArrayBuffer>[] = [];

/**
 * The SHA-256 of a file's pieces, or of those of its span, a few of them at once.
 * @throws Failure `folder/*`; `folder/changed-meanwhile` where the file is not as large as the span was cut for
 */
export async function hashFile(
  { path, size: expected, span }: HashWish,
  { reader, sha256, progress, signal }: Omit<LookPorts, 'reader'> & { readonly reader: Pick<FolderReader, 'open'> },
): Promise<{ size: number; pieces: string[] }> {
  const file = await reader.open(path, expected);
  try {
    const { size } = file;
    if (span && size !== expected) throw new Failure('folder/changed-meanwhile', { path });
    const { first: from, end: to } = span ?? { first: 0, end: pieceCount(size) };
    const pieces: string[] = [];
    for (let first = from; first < to; first += PIECES_AT_ONCE) {
      assertGoing(signal);
      const last = Math.min(to, first + PIECES_AT_ONCE);
      const some = Array.from({ length: last - first }, async (_, i) => {
        const { start, end } = pieceRange(size, first + i);
        const memory = spare.pop() ?? new Uint8Array(PIECE_SIZE);
        try {
          const bytes = await file.read(start, end, memory);
          if (bytes.length < end - start) throw new Failure('folder/changed-meanwhile', { path });
          // Not awaited here: the bytes are taken over by now, and the memory is free.
          return sha256(bytes);
        } finally {
          spare.push(memory);
        }
      });
      pieces.push(...(await Promise.all(some)));
      const done = pieceRange(size, last - 1).end - pieceRange(size, first).start;
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
async function hashFiles(files: readonly HashWish[], ports: LookPorts): Promise<HashResult> {
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
  const entries = await reader.list(root, (files) => progress({ kind: 'bytes', files, bytes: 0 }));
  return {
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
