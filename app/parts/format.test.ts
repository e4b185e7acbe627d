import { expect, it } from 'vitest';
import { ago, bytes, counted, duration, shortDay } from './format';
import { shortenMiddle } from '#core/text';

it.each([
  [0, '0 B'],
  [812, '812 B'],
  [999, '999 B'],
  [1000, '1.0 kB'],
  [999_949, '999.9 kB'],
  [999_950, '1.0 MB'],
  [72_400_000, '72.4 MB'],
  [90e9, '90.0 GB'],
])('%d bytes are %s', (n, words) => {
  expect(bytes(n)).toBe(words);
});

it.each([
  [-1, '0:00'],
  [0.2, '0:01'],
  [21, '0:21'],
  [3600, '1:00:00'],
  [3727, '1:02:07'],
])('%d seconds are %s', (seconds, words) => {
  expect(duration(seconds)).toBe(words);
});

it('counts things in one and many', () => {
  expect([counted(1, 'file'), counted(0, 'file'), counted(1200, 'copy', 'copies')]).toEqual([
    '1 file',
    '0 files',
    '1,200 copies',
  ]);
});

it('says how long ago in the largest unit that fits', () => {
  const now = Date.parse('2026-11-23T12:00:00Z');
  expect([5, 120, 7200, 3 * 86_400].map((seconds) => ago(now - 1000 * seconds, now))).toEqual([
    '5 seconds ago',
    '2 minutes ago',
    '2 hours ago',
    '3 days ago',
  ]);
});

it('keeps both ends of a long path', () => {
  expect(shortenMiddle('short', 10)).toBe('short');
  const long = shortenMiddle('a-folder/deep/down/below/file.txt', 16);
  expect(long).toHaveLength(16);
  expect(long).toMatch(/^a-fol….*file\.txt$/);
});

it('names a day without regard to where one is', () => {
  expect(shortDay('2026-11-30')).toBe('Nov 30');
});
