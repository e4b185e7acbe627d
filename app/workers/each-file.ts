import { assertGoing, inLanes } from '#core/calls';

const FILES_AT_ONCE = 8;

/**
 * Does `work` for each file, several at a time, stopping once the task is cancelled. Opening a small file takes longer
 * than hashing or writing it: while one is opened, others are worked on.
 */
export const eachFile = <T>(
  files: readonly T[],
  signal: AbortSignal,
  work: (file: T, index: number) => Promise<void>,
): Promise<void> => inLanes(files, FILES_AT_ONCE, { gate: () => assertGoing(signal) }, work);
