import { PIECE_SIZE, pieceCount } from '#core/digest';
import type { HashWish } from '#core/folders';
import type { BatchLimits } from '~/places';
import type { JobContext } from '../job-context';
import type { DiskResults, DiskTask } from '~/workers';

const LIMITS: BatchLimits = { files: 32, bytes: 16e6 };

/** Cuts a list into batches that take a worker a few tens of milliseconds, so that a pause comes soon. */
export function batches<T extends { readonly size: number }>(files: readonly T[], limits = LIMITS): T[][] {
  const all: T[][] = [];
  let batch: T[] = [];
  let bytes = 0;
  for (const file of files) {
    if (batch.length > 0 && (batch.length >= limits.files || bytes + file.size > limits.bytes)) {
      all.push(batch);
      batch = [];
      bytes = 0;
    }
    batch.push(file);
    bytes += file.size;
  }
  if (batch.length > 0) all.push(batch);
  return all;
}

/** Bytes of a large file that one worker hashes at a time: enough to be worth the message, a fifth of a second's work. */
const SPAN_BYTES = 64 * PIECE_SIZE;

/** The file whole, or where it is large as spans that cover each of its pieces once. */
export function hashWishes(path: string, size: number, pieceSize = PIECE_SIZE): HashWish[] {
  const cut = pieceSize === PIECE_SIZE ? {} : { pieceSize };
  if (size <= Math.max(SPAN_BYTES, pieceSize)) return [{ path, size, ...cut }];
  const pieces = pieceCount(size, pieceSize);
  const inSpan = Math.max(1, SPAN_BYTES / pieceSize);
  return Array.from({ length: Math.ceil(pieces / inSpan) }, (_, i) => ({
    path,
    size,
    ...cut,
    span: { first: i * inSpan, end: Math.min(pieces, (i + 1) * inSpan) },
  }));
}

/** Runs a task in the pool and counts what it reports. */
export function runCounted<Task extends DiskTask>(context: JobContext, task: Task): Promise<DiskResults[Task['do']]> {
  return context.pool.run(task, {
    signal: context.signal,
    progress: (progress) => {
      if (progress.kind === 'bytes') context.add(progress.files, progress.bytes);
    },
  });
}
