import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changesBetween, type Decide, type Difference, linesOf, mergeText } from '.';
import { cases } from '../testing/cases';

/** Texts of few different lines, so that what was moved or doubled is met often. */
const text = fc
  .array(fc.constantFrom('a', 'b', 'c', 'd', '', 'lamp = 1'), { maxLength: 14 })
  .chain((lines) => fc.constantFrom(lines.join('\n'), lines.map((line) => `${line}\n`).join('')));

const merged = (base: string, ours: string, theirs: string, decide?: Decide): string | undefined =>
  mergeText(base, ours, theirs, decide).merged;

describe('what differs between two texts', () => {
  it('makes the one of the other, and what it leaves out is in both', () => {
    fc.assert(
      fc.property(text, text, (a, b) => {
        const [linesA, linesB] = [linesOf(a), linesOf(b)];
        const ids = new Map([...new Set([...linesA, ...linesB])].map((line, i) => [line, i]));
        const numbered = (lines: readonly string[]): Int32Array => Int32Array.from(lines, (line) => ids.get(line)!);
        const made = [...linesA];
        for (const { from, removed, to, added } of changesBetween(numbered(linesA), numbered(linesB)).toReversed())
          made.splice(from, removed, ...linesB.slice(to, to + added));
        expect(made).toEqual(linesB);
      }),
      { numRuns: cases(500) },
    );
  });

  it('is the least that it can be, where little differs', () => {
    const lines = Int32Array.from({ length: 400 }, (_, i) => i);
    const other = Int32Array.from([
      ...lines.subarray(0, 100),
      900,
      ...lines.subarray(101, 300),
      ...lines.subarray(310),
    ]);
    expect(changesBetween(lines, other)).toEqual([
      { from: 100, removed: 1, to: 100, added: 1 },
      { from: 300, removed: 10, to: 300, added: 0 },
    ]);
  });

  it('of what has next to nothing in common is found by steps that do not grow with its square', () => {
    // Each line is in the other text many times, and nearly never at a like place.
    const noise = (seed: number): Int32Array =>
      Int32Array.from({ length: 40_000 }, (_, i) => Math.imul(i + seed, 2654435761) >>> 22);
    const [a, b] = [noise(1), noise(77_777)];
    const kept = a.length - changesBetween(a, b).reduce((sum, { removed }) => sum + removed, 0);
    expect(kept).toBeGreaterThan(0);
  });
});

describe('a merge of texts', () => {
  it('with one side unchanged is the other one, byte for byte', () => {
    fc.assert(
      fc.property(text, text, (base, other) => {
        expect(merged(base, base, other)).toBe(other);
        expect(merged(base, other, base)).toBe(other);
        expect(merged(base, other, other)).toBe(other);
      }),
      { numRuns: cases(500) },
    );
  });

  it('is mirrored when its sides are swapped, conflicts and all', () => {
    fc.assert(
      fc.property(text, text, text, (base, ours, theirs) => {
        const [one, other] = [mergeText(base, ours, theirs), mergeText(base, theirs, ours)];
        expect(one.merged).toBe(other.merged);
        const mirrored = { ours: 'theirs', theirs: 'ours', alike: 'alike', conflict: 'conflict' } as const;
        expect(one.differences).toEqual(
          other.differences.map((difference) => ({
            ...{ ...difference, ours: difference.theirs, theirs: difference.ours },
            by: mirrored[difference.by],
          })),
        );
      }),
      { numRuns: cases(500) },
    );
  });

  it('gives for each conflict what is decided: the lines of one side, or others', () => {
    fc.assert(
      fc.property(text, text, text, (base, ours, theirs) => {
        const conflicts: Difference[] = [];
        const decided = merged(base, ours, theirs, (conflict) => {
          conflicts.push(conflict);
          return { value: `decided ${conflicts.length}` };
        })!;
        const open = mergeText(base, ours, theirs);
        expect(open.differences.filter(({ by }) => by === 'conflict')).toEqual(conflicts);
        conflicts.forEach((_, i) => expect(decided).toContain(`decided ${i + 1}\n`));
        // Decided for ours, what is not of theirs alone is ours.
        const own = merged(base, ours, theirs, () => 'ours')!;
        if (open.differences.every(({ by }) => by !== 'theirs')) expect(own).toBe(ours);
        const other = merged(base, ours, theirs, () => 'theirs')!;
        if (open.differences.every(({ by }) => by !== 'ours')) expect(other).toBe(theirs);
      }),
      { numRuns: cases(300) },
    );
  });

  it.each([
    ['changes apart', 'a\nb\nc\nd\ne\n', 'A\nb\nc\nd\ne\n', 'a\nb\nc\nd\nE\n', 'A\nb\nc\nd\nE\n'],
    ['the same change', 'a\nb\n', 'a\nB\n', 'a\nB\n', 'a\nB\n'],
    ['changes that touch', 'a\nb\n', 'A\nb\n', 'a\nB\n', undefined],
    ['two changes of one line', 'a\n', 'b\n', 'c\n', undefined],
    ['lines added at one place', 'a\n', 'a\nb\n', 'a\nc\n', undefined],
    ['one removed, the other changed', 'a\nb\nc\n', 'a\nc\n', 'a\nB\nc\n', undefined],
    ['ends of lines that one side changed', 'a\nb\n', 'a\r\nb\r\n', 'a\nb\n', 'a\r\nb\r\n'],
    ['no end of the last line', 'a\nb', 'a\nb\n', 'A\nb', undefined],
    [
      'other ends of lines, which say nothing',
      'a\nb\nc\nd\n',
      'A\r\nb\r\nc\r\nd\r\n',
      'a\nb\nc\nD\n',
      'A\r\nb\r\nc\r\nD\r\n',
    ],
    ['nothing at all', '', '', '', ''],
    ['a text made of nothing', '', 'a\n', '', 'a\n'],
  ])('of %s', (_, base, ours, theirs, expected) => expect(merged(base, ours, theirs)).toBe(expected));
});
