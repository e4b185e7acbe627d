import { Failure } from '#core/failure';

const FILES_AT_ONCE = 8;

/** @throws Failure `job/cancelled` */
export function assertGoing(signal: AbortSignal): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/**
 * Does `work` for each file, several at a time, stopping once the task is cancelled. Opening a small file takes longer
 * than hashing or writing it: while one is opened, others are worked on.
 */
export async function eachFile<T>(
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
