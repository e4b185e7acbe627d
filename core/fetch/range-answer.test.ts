import { expect, it } from 'vitest';
import { isRangeAnswer } from './range-answer';

it.each<[expected: boolean, status: number, contentRange: string | null]>([
  [true, 206, 'bytes 5-9/20'],
  [true, 206, 'Bytes 5-9/*'],
  [false, 200, null],
  [false, 200, 'bytes 5-9/20'],
  // Without it, as of an answer in several parts, nobody knows where the bytes belong.
  [false, 206, null],
  [false, 206, 'bytes 0-19/20'],
  [false, 206, 'bytes */20'],
  [false, 206, 'lines 5-9/20'],
])('%s: %i %s', (expected, status, contentRange) => {
  expect(isRangeAnswer(status, contentRange, 5)).toBe(expected);
});
