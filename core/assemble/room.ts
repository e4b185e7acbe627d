import type { roomInParts } from './parts';
import type { LayDownPlan } from './plan';

/** As a tree of its own that is swapped with the old one; or only the files that differ, at once or in parts (`parts.ts`). */
export const LAY_DOWN_WAYS = ['beside', 'in-place', 'in-parts'] as const;
export type LayDownWay = (typeof LAY_DOWN_WAYS)[number];

interface Room {
  readonly steps: readonly RoomStep[];
  readonly peak: number;
}

const peakOf = (steps: readonly RoomStep[]): number => Math.max(...steps.map(({ bytes }) => bytes));

/** Bytes in use after a step; between two steps the use changes evenly. */
export interface RoomStep {
  readonly after: 'now' | 'fetch' | 'write' | 'swap' | 'let-go';
  readonly bytes: number;
}

/** What the drive holds before anything is laid down. */
export interface RoomNow {
  /** The folder as it lies. */
  readonly oldBytes: number;
  /** Fetched already and put aside. */
  readonly fetchedBytes: number;
  /** To be put on the shelf before anything is changed. */
  readonly toShelve: number;
}

/**
 * Disk use over the course of laying down. Beside: the old folder, what was fetched and the new folder exist at once just
 * before the swap. In place: the old folder, what was fetched and the files that differ. That is the peak; fetched copies go
 * at the swap, and what was displaced when it is let go. What is put on the shelf stays there.
 */
export function roomOverTime(
  plan: LayDownPlan,
  { oldBytes, fetchedBytes, toShelve }: RoomNow,
  way: Exclude<LayDownWay, 'in-parts'>,
): Room {
  const toFetch = plan.missing.reduce((sum, { size }) => sum + size, 0);
  const whole = plan.rows.reduce((sum, { size }) => sum + size, 0) + toFetch;
  const kept = plan.rows.reduce((sum, { size, source }) => sum + (source.how === 'keep' ? size : 0), 0);
  const written = way === 'beside' ? whole : whole - kept;
  const afterFetch = oldBytes + fetchedBytes + toFetch;
  const steps: RoomStep[] = [
    { after: 'now', bytes: oldBytes + fetchedBytes },
    { after: 'fetch', bytes: afterFetch },
    { after: 'write', bytes: afterFetch + toShelve + written },
    { after: 'swap', bytes: oldBytes + toShelve + written },
    { after: 'let-go', bytes: whole + toShelve },
  ];
  return { steps, peak: peakOf(steps) };
}

/**
 * As {@link roomOverTime}, for laying down in parts: then nothing is put on the shelf.
 * @param toFetch bytes
 */
export function roomOverParts(
  { peak, after }: ReturnType<typeof roomInParts>,
  { oldBytes, fetchedBytes }: Omit<RoomNow, 'toShelve'>,
  toFetch: number,
): Room {
  const afterFetch = oldBytes + fetchedBytes + toFetch;
  const steps: RoomStep[] = [
    { after: 'now', bytes: oldBytes + fetchedBytes },
    { after: 'fetch', bytes: afterFetch },
    { after: 'write', bytes: afterFetch + peak },
    { after: 'swap', bytes: oldBytes + after },
    { after: 'let-go', bytes: oldBytes + after },
  ];
  return { steps, peak: peakOf(steps) };
}

/** Bytes that come on top of what the disk holds at the start. */
export const roomNeeded = ({ steps, peak }: Room): number => peak - steps[0]!.bytes;

/** Why a way is proposed. */
export type WayReason = 'only-way' | 'no-room-beside' | 'no-room-to-keep' | 'little-differs' | 'one-instant';

/** Writing less than this share of the folder is worth changing it file by file. */
const LITTLE = 0.25;

/**
 * Proposes one of the ways: beside, which changes the folder in one instant and keeps the old one whole; in place where
 * beside finds no room or where little differs; and in parts, which gives up what it replaces, only where in place finds
 * none either.
 * @param free bytes on the disk, where it tells
 */
export function proposeWay(
  ways: readonly ({ readonly way: LayDownWay } & Room)[],
  free = Infinity,
): { way: LayDownWay; why: WayReason } {
  const needs = new Map(ways.map((one) => [one.way, roomNeeded(one)]));
  const [beside, inPlace, inParts] = LAY_DOWN_WAYS.map((way) => needs.get(way));
  if (inPlace !== undefined && inPlace > free && inParts !== undefined && inParts <= free)
    return { way: 'in-parts', why: 'no-room-to-keep' };
  if (beside === undefined || inPlace === undefined) return { way: ways[0]!.way, why: 'only-way' };
  if (beside > free) return { way: 'in-place', why: 'no-room-beside' };
  return inPlace <= LITTLE * beside
    ? { way: 'in-place', why: 'little-differs' }
    : { way: 'beside', why: 'one-instant' };
}
