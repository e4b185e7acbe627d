import type { LayDownPlan } from './plan';

/** Bytes in use after a step; between two steps the use changes evenly. */
export interface RoomStep {
  readonly after: 'now' | 'fetch' | 'write' | 'swap' | 'let-go';
  readonly bytes: number;
}

/**
 * Disk use over the course of laying down beside and swapping: the old folder, what was fetched and the new folder
 * exist at once just before the swap, which is the peak; fetched copies go at the swap, the old folder when let go.
 * @param oldBytes the folder as it lies
 * @param fetchedBytes already fetched and put aside
 */
export function roomOverTime(
  plan: LayDownPlan,
  oldBytes: number,
  fetchedBytes: number,
): { steps: RoomStep[]; peak: number } {
  const toFetch = plan.missing.reduce((sum, { size }) => sum + size, 0);
  const written = plan.rows.reduce((sum, { size }) => sum + size, 0) + toFetch;
  const afterFetch = oldBytes + fetchedBytes + toFetch;
  const steps: RoomStep[] = [
    { after: 'now', bytes: oldBytes + fetchedBytes },
    { after: 'fetch', bytes: afterFetch },
    { after: 'write', bytes: afterFetch + written },
    { after: 'swap', bytes: oldBytes + written },
    { after: 'let-go', bytes: written },
  ];
  return { steps, peak: Math.max(...steps.map(({ bytes }) => bytes)) };
}
