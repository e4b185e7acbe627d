/* When a start was that a log tells of: by the times in its lines, and by the time of its file. */

/** When a line was written, as it tells itself. */
export interface ToldTime {
  /** Milliseconds since 1970, as in UTC where no zone is told. */
  readonly at: number;
  readonly hasZone: boolean;
}

/** What is known of when a log was written; undefined where nothing is. */
export interface WrittenWhen {
  /** The newest time in its lines. */
  readonly told: ToldTime | undefined;
  /** The time of its file: milliseconds since 1970. */
  readonly file: number | undefined;
}

/** A file's time may lag behind by this much: some file systems keep it in steps of two seconds. */
const CLOCK_STEP_MS = 2000;
/** Local times are at most so far from UTC. */
const MOST_ZONE_MS = 14 * 3_600_000;

const CLOCK = String.raw`[T ,]{1,2}(\d{1,2}):(\d\d)(?::(\d\d)(?:[.,]\d{1,9})?)?`;
/** What may stand before the time of a line: brackets, and how much it matters. Times within a line are of what it speaks of. */
const BEGIN = String.raw`^[[(<\s]*(?:(?:trace|debug|info|notice|warn|warning|error|fatal|log)[\])\s:|,[(-]{1,4})?`;
/** The year first, as in ISO 8601, or with points and the day first. With slashes and the year last the first may be day or month. */
const TIMES = [
  {
    pattern: new RegExp(String.raw`${BEGIN}(\d{4})[-/.](\d\d)[-/.](\d\d)${CLOCK}(Z|[+-]\d\d:?\d\d)?`, 'i'),
    day: 3,
    year: 1,
  },
  { pattern: new RegExp(String.raw`${BEGIN}(\d\d)\.(\d\d)\.(\d{4})${CLOCK}(Z|[+-]\d\d:?\d\d)?`, 'i'), day: 1, year: 3 },
];

/** The time at which a line was written, if it tells. @param line of bounded length */
export function timeIn(line: string): ToldTime | undefined {
  for (const { pattern, day, year } of TIMES) {
    const found = pattern.exec(line);
    if (!found) continue;
    const [, , month, , hour, minute, second = '0', zone] = found;
    const at = Date.UTC(+found[year]!, +month! - 1, +found[day]!, +hour!, +minute!, +second);
    if (Number.isNaN(at) || +month! > 12 || +found[day]! > 31 || +hour! > 24) continue;
    return { at: at - offsetOf(zone), hasZone: zone !== undefined };
  }
  return undefined;
}

/** Milliseconds that a zone is ahead of UTC. */
function offsetOf(zone = 'Z'): number {
  if (zone.toUpperCase() === 'Z') return 0;
  const [sign, hours, minutes] = [zone[0] === '-' ? -1 : 1, +zone.slice(1, 3), +zone.slice(-2)];
  return sign * (hours * 60 + minutes) * 60_000;
}

/**
 * Whether a log was written before a change, by all that is known of it. What its lines tell counts before the time of its file,
 * which is that of a copy where it was copied.
 * @param change milliseconds since 1970
 */
export function isBefore(change: number, { told, file }: WrittenWhen): boolean {
  if (told)
    return told.at + (told.hasZone ? CLOCK_STEP_MS : MOST_ZONE_MS) < change || (!told.hasZone && isOld(file, change));
  return isOld(file, change);
}

const isOld = (file: number | undefined, change: number): boolean =>
  file !== undefined && file + CLOCK_STEP_MS < change;

/** When the start was, as well as it is known: milliseconds since 1970, never in the future. */
export const startedAt = ({ told, file }: WrittenWhen, now: number): number =>
  Math.min(now, told?.hasZone ? told.at : (file ?? now));
