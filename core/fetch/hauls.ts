import type { ContentKey } from '#core/digest';
import type { PieceSource } from './what-to-fetch';

/** A file that is to come. */
export interface HaulFile {
  /** What it is called in the store. */
  readonly name: string;
  /** Where its bytes are; empty where all of them lie elsewhere on the disk. */
  readonly href: string;
  readonly size: number;
  readonly key: ContentKey;
  /** Where pieces lie; undefined ones are fetched. */
  readonly sources: readonly (PieceSource | undefined)[];
}

/** Files that are fetched together by one worker. */
export interface Haul {
  readonly files: readonly HaulFile[];
}

export interface HaulLimits {
  readonly files: number;
  readonly bytes: number;
}

/** So many that what it costs to hand them out is small, and so few that a pause comes soon. */
const LIMITS: HaulLimits = { files: 16, bytes: 8 << 20 };

/**
 * Puts files together that are fetched at a time: a large one by itself, small ones with others.
 * @param files largest first: at the end only small ones are under way, and nobody waits long for the others
 */
export function haulsOf<T extends Pick<HaulFile, 'size'>>(files: readonly T[], limits = LIMITS): T[][] {
  const hauls: T[][] = [];
  let haul: T[] = [];
  let bytes = 0;
  for (const file of files) {
    if (haul.length > 0 && (haul.length >= limits.files || bytes + file.size > limits.bytes)) {
      hauls.push(haul);
      [haul, bytes] = [[], 0];
    }
    haul.push(file);
    bytes += file.size;
  }
  if (haul.length > 0) hauls.push(haul);
  return hauls;
}
