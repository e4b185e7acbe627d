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

/** Bytes that come on top of what the disk holds at the start. */
export const roomNeeded = ({ steps, peak }: { readonly steps: readonly RoomStep[]; readonly peak: number }): number =>
  peak - steps[0]!.bytes;

/** Why a way is proposed. */
export type WayReason = 'only-way' | 'no-room-beside' | 'little-differs' | 'one-instant';

/** Writing less than this share of the folder is worth changing it file by file. */
const LITTLE = 0.25;

/**
 * Proposes one of the ways: in place where beside finds no room or where little differs, else beside, which changes the
 * folder in one instant and keeps the old one whole.
 * @param free bytes on the disk, where it tells
 */
export function proposeWay(
  ways: readonly { readonly way: LayDownWay; readonly steps: readonly RoomStep[]; readonly peak: number }[],
  free?: number,
): { way: LayDownWay; why: WayReason } {
  const needs = new Map(ways.map((one) => [one.way, roomNeeded(one)]));
  const [beside, inPlace] = [needs.get('beside'), needs.get('in-place')];
  if (beside === undefined || inPlace === undefined) return { way: ways[0]!.way, why: 'only-way' };
  if (free !== undefined && beside > free) return { way: 'in-place', why: 'no-room-beside' };
  return inPlace <= LITTLE * beside
    ? { way: 'in-place', why: 'little-differs' }
    : { way: 'beside', why: 'one-instant' };
}
