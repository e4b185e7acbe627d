import type { LayDownPlan } from './plan';

/** As a tree of its own that is swapped with the old one, or only the files that differ. */
export type LayDownWay = 'beside' | 'in-place';

/** Bytes in use after a step; between two steps the use changes evenly. */
export interface RoomStep {
  readonly after: 'now' | 'fetch' | 'write' | 'swap' | 'let-go';
  readonly bytes: number;
}

/**
 * Disk use over the course of laying down. Beside: the old folder, what was fetched and the new folder exist at once just
 * before the swap. In place: the old folder, what was fetched and the files that differ. That is the peak; fetched copies go
 * at the swap, and what was displaced when it is let go.
 * @param oldBytes the folder as it lies
 * @param fetchedBytes already fetched and put aside
 */
export function roomOverTime(
  plan: LayDownPlan,
  oldBytes: number,
  fetchedBytes: number,
  way: LayDownWay = 'beside',
): { steps: RoomStep[]; peak: number } {
  const toFetch = plan.missing.reduce((sum, { size }) => sum + size, 0);
  const whole = plan.rows.reduce((sum, { size }) => sum + size, 0) + toFetch;
  const kept = plan.rows.reduce((sum, { size, source }) => sum + (source.how === 'keep' ? size : 0), 0);
  const written = way === 'beside' ? whole : whole - kept;
  const afterFetch = oldBytes + fetchedBytes + toFetch;
  const steps: RoomStep[] = [
    { after: 'now', bytes: oldBytes + fetchedBytes },
    { after: 'fetch', bytes: afterFetch },
    { after: 'write', bytes: afterFetch + written },
    { after: 'swap', bytes: oldBytes + written },
    { after: 'let-go', bytes: whole },
  ];
  return { steps, peak: Math.max(...steps.map(({ bytes }) => bytes)) };
}
