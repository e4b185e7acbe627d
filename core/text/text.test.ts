import fc from 'fast-check';
import { expect, it } from 'vitest';
import { shortenMiddle, utf8Length } from './index';

const isWellFormed = (text: string): boolean => !/\p{Surrogate}/u.test(text);

it('a text that is shortened keeps its ends and its limit', () => {
  expect(shortenMiddle('short', 10)).toBe('short');
  expect(shortenMiddle('tables/deep/fares.csv', 12)).toBe('tab…ares.csv');
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 60 }), fc.integer({ min: 3, max: 40 }), (text, most) => {
      const short = shortenMiddle(text, most);
      expect(short.length).toBeLessThanOrEqual(Math.max(most, 3));
      if (isWellFormed(text)) expect(isWellFormed(short)).toBe(true);
    }),
  );
});

it('the length in UTF-8 is what an encoder makes', () => {
  const encoder = new TextEncoder();
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), fc.string({ unit: 'grapheme' }), (a, b) => {
      for (const text of [a, b, `${a}\ud800${b}`]) expect(utf8Length(text)).toBe(encoder.encode(text).length);
    }),
  );
});
