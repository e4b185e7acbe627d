import { Failure } from '#core/failure';
import type { StopSignal } from '#core/folders';

/** @throws Failure `job/cancelled` */
export function assertGoing(signal: StopSignal): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/**
 * Does `work` for each item, some at a time, stopping at the gate before each. After a failure no more are begun; the first one
 * is thrown when all that was under way has ended, so that nothing works on behind its back.
 * @param lanes how many at a time; where it changes meanwhile, asked whenever one has ended
 */
export async function inLanes<T>(
  items: readonly T[],
  lanes: number | (() => number),
  { gate }: { readonly gate: () => void | Promise<void> },
  work: (item: T, index: number) => Promise<void>,
): Promise<void> {
  const width = typeof lanes === 'number' ? () => lanes : lanes;
  let next = 0;
  let underWay = 0;
  let failure: { readonly reason: unknown } | undefined;
  await new Promise<void>((resolve) => {
    const doOne = async (index: number): Promise<void> => {
      try {
        await gate();
        if (!failure) await work(items[index]!, index);
      } catch (reason) {
        failure ??= { reason };
      }
      underWay -= 1;
      goOn();
    };
    const goOn = (): void => {
      while (!failure && next < items.length && underWay < width()) {
        underWay += 1;
        void doOne(next++);
      }
      if (underWay === 0) resolve();
    };
    goOn();
  });
  if (failure) throw failure.reason;
}
