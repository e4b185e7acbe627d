import { type Change, changesBetween } from './diff';

/* Three sequences of lines, two of which were made from the first. */

type Range = readonly [from: number, to: number];

/** A part of a merge: where it lies in each, and whose lines count. Parts follow one another without a gap. */
export interface Part {
  readonly base: Range;
  readonly ours: Range;
  readonly theirs: Range;
  /** `same`: both have changed it alike. `conflict`: both have changed it, and not alike. */
  readonly take: 'base' | 'ours' | 'theirs' | 'same' | 'conflict';
}

const areSame = (a: Int32Array, [a0, a1]: Range, b: Int32Array, [b0, b1]: Range): boolean => {
  if (a1 - a0 !== b1 - b0) return false;
  for (let i = 0; i < a1 - a0; i++) if (a[a0 + i] !== b[b0 + i]) return false;
  return true;
};

/** Changes of both that touch become one part: nobody can say in which order they would be. What neither changed is left out. */
function changedParts(ours: readonly Change[], theirs: readonly Change[]): Part[] {
  const parts: Part[] = [];
  let [i, j] = [0, 0];
  /** Lines that each has more than the base, before where it stands now. */
  let [moreOurs, moreTheirs] = [0, 0];
  while (i < ours.length || j < theirs.length) {
    const begin = Math.min(ours[i]?.from ?? Infinity, theirs[j]?.from ?? Infinity);
    const [startOurs, startTheirs] = [begin + moreOurs, begin + moreTheirs];
    let end = begin;
    let [isOurs, isTheirs] = [false, false];
    for (;;) {
      const [own, other] = [ours[i], theirs[j]];
      if (own && own.from <= end) {
        end = Math.max(end, own.from + own.removed);
        moreOurs += own.added - own.removed;
        isOurs = true;
        i++;
      } else if (other && other.from <= end) {
        end = Math.max(end, other.from + other.removed);
        moreTheirs += other.added - other.removed;
        isTheirs = true;
        j++;
      } else break;
    }
    parts.push({
      base: [begin, end],
      ours: [startOurs, end + moreOurs],
      theirs: [startTheirs, end + moreTheirs],
      take: isOurs && isTheirs ? 'conflict' : isOurs ? 'ours' : 'theirs',
    });
  }
  return parts;
}

/** What both sides of a conflict begin and end with alike is none; the base stays with what is left. */
function narrowed(part: Part, ours: Int32Array, theirs: Int32Array): Part[] {
  if (part.take !== 'conflict') return [part];
  if (areSame(ours, part.ours, theirs, part.theirs)) return [{ ...part, take: 'same' }];
  let [[a0, a1], [b0, b1]] = [part.ours, part.theirs];
  while (a0 < a1 && b0 < b1 && ours[a0] === theirs[b0]) [a0, b0] = [a0 + 1, b0 + 1];
  while (a0 < a1 && b0 < b1 && ours[a1 - 1] === theirs[b1 - 1]) [a1, b1] = [a1 - 1, b1 - 1];
  const { base } = part;
  const before: Part = {
    base: [base[0], base[0]],
    ours: [part.ours[0], a0],
    theirs: [part.theirs[0], b0],
    take: 'same',
  };
  const behind: Part = {
    base: [base[1], base[1]],
    ours: [a1, part.ours[1]],
    theirs: [b1, part.theirs[1]],
    take: 'same',
  };
  const middle: Part = { ...part, ours: [a0, a1], theirs: [b0, b1] };
  return [before, middle, behind].filter(({ ours: [from, to], take }) => take === 'conflict' || to > from);
}

/** The parts of a merge, in their order; together they are all of each sequence. */
export function mergeParts(base: Int32Array, ours: Int32Array, theirs: Int32Array): Part[] {
  const changed = changedParts(changesBetween(base, ours), changesBetween(base, theirs));
  const parts: Part[] = [];
  let [at, atOurs, atTheirs] = [0, 0, 0];
  const upTo = (b: number, o: number, t: number): void => {
    if (b > at) parts.push({ base: [at, b], ours: [atOurs, o], theirs: [atTheirs, t], take: 'base' });
  };
  for (const part of changed) {
    upTo(part.base[0], part.ours[0], part.theirs[0]);
    parts.push(...narrowed(part, ours, theirs));
    [at, atOurs, atTheirs] = [part.base[1], part.ours[1], part.theirs[1]];
  }
  upTo(base.length, ours.length, theirs.length);
  return parts;
}
