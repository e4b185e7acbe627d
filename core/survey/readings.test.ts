import { expect, it } from 'vitest';
import { keyOf } from '../testing/digest';
import { asPublished, type Reading, readBefore } from './index';

const NOON = Date.UTC(2026, 10, 24, 12);
const reading = (at: number, files: Record<string, [text: string, modified: number]>): Reading => {
  const rows = Object.entries(files);
  return {
    at,
    paths: rows.map(([path]) => path),
    sizes: Float64Array.from(rows, ([, [text]]) => text.length),
    modified: Float64Array.from(rows, ([, [, modified]]) => modified),
    keys: rows.map(([, [text]]) => keyOf(text)),
  };
};

it('a file is what it was read as while its size and time are the same', () => {
  const known = readBefore([reading(NOON, { a: ['old', 5] })]);
  expect(known('a', 3, 5)).toBe(keyOf('old'));
  expect(known('a', 4, 5)).toBeUndefined();
  expect(known('a', 3, 6)).toBeUndefined();
  expect(known('b', 3, 5)).toBeUndefined();
});

it('a file that was changed about when it was read may have changed again within the clock’s step', () => {
  for (const [modified, trusted] of [
    [NOON - 5000, true],
    [NOON - 1999, false],
    [NOON, false],
    [NOON + 10, false],
    [NaN, false],
  ] as const) {
    expect(readBefore([reading(NOON, { a: ['x', modified] })])('a', 1, modified) !== undefined).toBe(trusted);
  }
});

it('the later of two readings counts, in whatever order they come, even where it is too fresh to be trusted', () => {
  const [early, late] = [reading(NOON, { a: ['old', 5] }), reading(NOON + 9000, { a: ['new', 5] })];
  expect(readBefore([late, early])('a', 3, 5)).toBe(keyOf('new'));
  const fresh = reading(NOON + 9000, { a: ['new', NOON + 8999] });
  expect(readBefore([fresh, early])('a', 3, 5)).toBeUndefined();
});

it('a file is hashed by the pieces that its publisher cuts it into, wherever it lies', () => {
  const pieceSizeOf = asPublished([
    { path: 'a', size: 9e6, pieceSize: 1 << 22 },
    { path: 'b', size: 9e6, pieceSize: 1 << 18 },
  ]);
  expect([pieceSizeOf('a', 9e6), pieceSizeOf('b', 9e6), pieceSizeOf('a', 8e6)]).toEqual([1 << 22, 1 << 18, 1 << 20]);
  expect([1 << 22, 1 << 18]).toContain(pieceSizeOf('moved', 9e6));
});
