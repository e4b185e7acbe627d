import { inLanes } from '#core/calls';
import type { Failure } from '#core/failure';
import { isPassing } from '#core/fetch';
import type { JobContext } from '../job-context';

/** How often all that failed in passing is asked for, the first time included. */
const ROUNDS = 5;

/** Whoever failed, with the last reason. */
export interface SetAside<T> {
  readonly item: T;
  readonly failure: Failure;
}

interface Group<T> {
  readonly files: readonly T[];
}

interface Rounds<T, G extends Group<T>> {
  /** Groups at once, just now. */
  readonly lanes: () => number;
  /** Groups that fail whole in a row, after which the source is taken to be gone. */
  readonly goneAfter: number;
  /** What is done together. */
  readonly groupsOf: (items: readonly T[]) => readonly G[];
  /** Waits before what failed is asked for again; `round` counts from 1. */
  readonly pause: (round: number) => Promise<void>;
}

/**
 * Does `work` for groups of items. An item that fails by a failure of its own is set aside and does not keep the others from
 * going on; what may only have failed in passing is tried again after everything else. Where so many fail in a row that the
 * source must be gone, the rest is not asked for.
 * @param work gives what of the group failed
 * @returns what could not be done, in the order of `items`
 * @throws Failure whatever concerns more than one item
 */
export async function inRounds<T, G extends Group<T>>(
  items: readonly T[],
  { lanes, goneAfter, groupsOf, pause }: Rounds<T, G>,
  context: Pick<JobContext, 'gate'>,
  work: (group: G) => Promise<readonly SetAside<T>[]>,
): Promise<SetAside<T>[]> {
  const lasting = new Map<T, Failure>();
  let left = items;
  for (let round = 1; left.length > 0; round++) {
    const failed = new Map<T, Failure>();
    let inARow = 0;
    let gone: Failure | undefined;
    await inLanes(groupsOf(left), lanes, context, async (group) => {
      if (gone) {
        for (const item of group.files) failed.set(item, gone);
        return;
      }
      const aside = await work(group);
      for (const { item, failure } of aside) (isPassing(failure) ? failed : lasting).set(item, failure);
      inARow = aside.length < group.files.length ? 0 : inARow + 1;
      if (inARow >= goneAfter) gone = aside.find(({ failure }) => isPassing(failure))?.failure;
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
