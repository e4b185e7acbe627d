import { describe, expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import type { Difference } from '#core/merge';
import { conflictWords, didWords, madeForWords, outcomeOf, valueWords } from './carry-words';

const cell = (more: Partial<Difference>): Difference => ({
  ...{ path: ['r1', 'toll'], what: 'cell', base: '1', ours: '2', theirs: '3', by: 'conflict' },
  ...more,
});

it('a value is told on one line, however it is written', () => {
  expect([valueWords(''), valueWords('a\r\nb\n'), valueWords('x'.repeat(200)).length]).toEqual([
    '(empty)',
    'a ⏎ b',
    60,
  ]);
});

it('what a side did is one sentence', () => {
  const summary = { did: 'raised', what: 'cell', name: 'toll', count: 14, by: [0.1 + 0.2, 5], first: 'r1' } as const;
  expect(
    didWords('It', [
      summary,
      { ...summary, did: 'lowered', count: 1, by: [2, 2] },
      { ...summary, did: 'added', what: 'row', name: undefined, count: 1, first: 'r99' },
      { ...summary, did: 'renamed', what: 'column', first: 'fee' },
    ]),
  ).toBe(
    'It raises toll in 14 rows by 0.3 to 5, lowers toll in 1 row by 2, adds the row r99, renames a column to fee.',
  );
  expect(didWords('It', [])).toBe('It changes nothing that can be told.');
  expect(
    didWords(
      'It',
      Array.from({ length: 9 }, () => summary),
    ),
  ).toMatch(/, and 3 more\.$/);
});

it.each([
  [{ by: 'ours' } as const, '2', 'from the mod'],
  [{ by: 'theirs' } as const, '3', 'from the patch'],
  [{ by: 'alike', theirs: '2' } as const, '2', 'both alike'],
  [{ decision: 'theirs' } as const, '3', 'the game’s'],
  [{ decision: { value: '9' } }, '9', 'decided'],
  [{}, undefined, 'decide'],
])('what counts in a place, and why: %j', (more, value, why) => expect(outcomeOf(cell(more))).toEqual({ value, why }));

it('a conflict says who did what', () => {
  expect(conflictWords(cell({}))).toBe('It was 1: the game made it 3, the mod made it 2.');
  expect(conflictWords(cell({ base: undefined, theirs: undefined }))).toBe('the game removed it, the mod added 2.');
});

describe('the build that a release was made for', () => {
  const [a, b, c] = ['2.8.1', '2.9.4', '3.0.0'].map(asBuild) as [never, never, never];
  const nearest = {
    release: '1',
    builds: [
      { build: b, places: 1 },
      { build: a, places: 31 },
    ],
  };

  it.each([
    [{ isNamed: true, from: b, nearest: undefined }, 'Made for 2.9.4, as its author says.'],
    [{ isNamed: false, from: b, nearest: undefined }, 'Taken to be made for 2.9.4: nobody says.'],
    [
      { isNamed: false, from: b, nearest },
      'Nobody says what it was made for. Its files are nearest to those of 2.9.4: 1 place differs, and 31 from those of 2.8.1.',
    ],
    [
      { isNamed: false, from: c, nearest },
      'Taken to be made for 3.0.0, though its files are nearest to those of 2.9.4.',
    ],
  ])('is told with how it is known', (view, words) => expect(madeForWords(view)).toBe(words));
});
