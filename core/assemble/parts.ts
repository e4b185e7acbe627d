import type { ContentKey } from '#core/digest';
import { keySize } from '#core/digest';

/*
 * Laying down where the drive cannot hold what is replaced: part by part, and after each what it displaced is given up, as
 * far as a source of builds has it. All else is left for the last part, which is kept like any change.
 */

/** What is to lie in a folder and what lies there, by path; null: nothing. */
export interface Difference {
  readonly path: string;
  readonly wanted: ContentKey | null;
  readonly found: ContentKey | null;
}

/** Paths at which something else is to lie than lies there. */
export function differences(
  wanted: ReadonlyMap<string, ContentKey>,
  found: ReadonlyMap<string, ContentKey>,
): Difference[] {
  const put = [...wanted].flatMap(([path, key]): Difference[] => {
    const before = found.get(path) ?? null;
    return before === key ? [] : [{ path, wanted: key, found: before }];
  });
  const gone = [...found].flatMap(([path, key]): Difference[] =>
    wanted.has(path) ? [] : [{ path, wanted: null, found: key }],
  );
  return [...gone, ...put];
}

/**
 * Of the differences those that can be made without keeping what they displace: a source lists it, and nothing that is
 * still to be written is copied from it.
 */
export function withoutKeeping(
  all: readonly Difference[],
  wanted: ReadonlyMap<string, ContentKey>,
  listed: ReadonlySet<ContentKey>,
): Difference[] {
  const needed = new Set(wanted.values());
  return all.filter(({ found }) => found !== null && listed.has(found) && !needed.has(found));
}

const sizeOf = (key: ContentKey | null): number => (key === null ? 0 : keySize(key));

/** Bytes that are got ready in one part, unless a single file has more. */
export const PART_BYTES = 256 << 20;

/** The differences as they are made one part after the other: those that give most room first. */
export function inParts(some: readonly Difference[], most = PART_BYTES): Difference[][] {
  const growth = ({ wanted, found }: Difference): number => sizeOf(wanted) - sizeOf(found);
  const parts: Difference[][] = [];
  let bytes = Infinity;
  for (const one of some.toSorted((a, b) => growth(a) - growth(b))) {
    if (bytes + sizeOf(one.wanted) > most) {
      parts.push([]);
      bytes = 0;
    }
    bytes += sizeOf(one.wanted);
    parts.at(-1)!.push(one);
  }
  return parts;
}

/**
 * What room laying down in parts takes, in bytes on top of what lies there: at most on the way, and once it is done.
 * @param waived of all differences those that keep nothing
 */
export function roomInParts(
  all: readonly Difference[],
  waived: readonly Difference[],
  most = PART_BYTES,
): { readonly peak: number; readonly after: number } {
  const sum = (some: readonly Difference[], of: 'wanted' | 'found'): number =>
    some.reduce((bytes, one) => bytes + sizeOf(one[of]), 0);
  let grown = 0;
  let peak = 0;
  for (const part of inParts(waived, most)) {
    grown += sum(part, 'wanted');
    peak = Math.max(peak, grown);
    grown -= sum(part, 'found');
  }
  const after = sum(all, 'wanted') - sum(waived, 'found');
  return { peak: Math.max(peak, after), after };
}
