import type { Failure } from '#core/failure';
import { isFailure } from '#core/failure';
import { isOfOneFile, isPassing } from '#core/fetch';
import type { JobContext } from '../job-context';
import { inLanes } from './batches';

/** How often all that failed in passing is asked for, the first time included. */
const ROUNDS = 5;

/** Whoever failed, with the last reason. */
export interface SetAside<T> {
  readonly item: T;
  readonly failure: Failure;
}

interface Rounds {
  /** Items at once. */
  readonly lanes: number;
  /** Waits before what failed is asked for again; `round` counts from 1. */
  readonly pause: (round: number) => Promise<void>;
}

/**
 * Does `work` for each item. One that fails by a failure of its own is set aside and does not keep the others from going on;
 * what may only have failed in passing is tried again after everything else. Where so many fail in a row that the source must
 * be gone, the rest is not asked for.
 * @returns what could not be done, in the order of `items`
 * @throws Failure whatever concerns more than one item
 */
export async function inRounds<T>(
  items: readonly T[],
  { lanes, pause }: Rounds,
  context: Pick<JobContext, 'gate'>,
  work: (item: T) => Promise<void>,
): Promise<SetAside<T>[]> {
  const lasting = new Map<T, Failure>();
  let left = items;
  for (let round = 1; left.length > 0; round++) {
    const failed = new Map<T, Failure>();
    let inARow = 0;
    let gone: Failure | undefined;
    await inLanes(left, lanes, context, async (item) => {
      if (gone) return void failed.set(item, gone);
      try {
        await work(item);
        inARow = 0;
      } catch (error) {
        if (!isFailure(error) || !isOfOneFile(error)) throw error;
        (isPassing(error) ? failed : lasting).set(item, error);
        if (isPassing(error) && ++inARow >= 2 * lanes) gone = error;
      }
    });
    const isLast = gone !== undefined || round === ROUNDS;
    if (isLast) for (const [item, failure] of failed) lasting.set(item, failure);
    left = isLast ? [] : left.filter((item) => failed.has(item));
    if (left.length > 0) await pause(round);
  }
  return items.flatMap((item) => {
    const failure = lasting.get(item);
    return failure ? [{ item, failure }] : [];
  });
}
