import type { Difference } from './difference';
import { linesOf } from './text';

/* Which of several files another one was made from: the one that it differs from in the fewest places. */

/** How much a file differs from what it may have been made from: values, cells, rows; of texts lines. */
export function distanceOf(differences: readonly Difference[]): number {
  return differences.reduce(
    (sum, { what, base, ours }) =>
      sum + (what === 'lines' ? Math.max(linesOf(base ?? '').length, linesOf(ours ?? '').length) : 1),
    0,
  );
}
