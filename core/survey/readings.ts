import type { ContentKey } from '#core/digest';

/** The files of a folder as they were read, as columns of equal length. */
export interface Reading {
  /** When the reading began, in milliseconds since 1970. */
  readonly at: number;
  readonly paths: readonly string[];
  /** Bytes. */
  readonly sizes: Float64Array;
  /** Times of the last change, in milliseconds since 1970; NaN where none is known. */
  readonly modified: Float64Array;
  readonly keys: readonly ContentKey[];
}

/**
 * A file that was changed this shortly before it was read (or later) may have been changed again within the same tick
 * of its file system's clock, the coarsest of which steps by two seconds.
 */
const CLOCK_STEP_MS = 2000;

/**
 * Answers the key that a file had in a reading, if it has the same size and time still and that time lies clearly
 * before the reading. Later readings go before earlier ones.
 */
export function readBefore(
  readings: readonly Reading[],
): (path: string, size: number, modified: number) => ContentKey | undefined {
  const known = new Map<string, { size: number; modified: number; key: ContentKey }>();
  for (const { at, paths, sizes, modified, keys } of readings.toSorted((a, b) => a.at - b.at)) {
    paths.forEach((path, i) => {
      // What is known from before no longer holds, even where this reading is too fresh to be trusted.
      known.delete(path);
      if (modified[i]! < at - CLOCK_STEP_MS) {
        known.set(path, { size: sizes[i]!, modified: modified[i]!, key: keys[i]! });
      }
    });
  }
  return (path, size, modified) => {
    const file = known.get(path);
    return file?.size === size && file.modified === modified ? file.key : undefined;
  };
}
