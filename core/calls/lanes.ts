import { Failure } from '#core/failure';
import type { StopSignal } from '#core/folders';

/** @throws Failure `job/cancelled` */
export function assertGoing(signal: StopSignal): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/**
 * Does `work` for each item, `lanes` at a time, stopping at the gate before each. The first failure ends all lanes; it is
 * thrown when all of them have ended, so that none works on behind its back.
 */
export async function inLanes<T>(
  items: readonly T[],
  lanes: number,
  { gate }: { readonly gate: () => void | Promise<void> },
  work: (item: T, index: number) => Promise<void>,
): Promise<void> {
  let next = 0;
  let failed = false;
  const lane = async (): Promise<void> => {
    while (next < items.length && !failed) {
      await gate();
      const index = next++;
      const item = items[index];
      if (item === undefined) return;
      try {
        await work(item, index);
      } catch (error) {
        failed = true;
        throw error;
      }
    }
  };
  const outcomes = await Promise.allSettled(Array.from({ length: lanes }, lane));
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
}
