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

/** Something that files may have been made from. */
export interface Candidate<T> {
  readonly of: T;
  /** Files of which it has one that they may have been made from, and that can be compared. */
  readonly files: number;
  /** In how many places these differ. */
  readonly places: number;
}

/**
 * Candidates from the nearest; of those that are as near, the order stays. One that has fewer of the files than another is none: less
 * of it can differ.
 */
export function nearestFirst<T>(candidates: readonly Candidate<T>[]): Candidate<T>[] {
  const most = Math.max(1, ...candidates.map(({ files }) => files));
  return candidates.filter(({ files }) => files === most).toSorted((a, b) => a.places - b.places);
}
