import fc from 'fast-check';
import { expect, it } from 'vitest';
import { barsOf, type Support } from './bars';

it('bars break where a build is left out or counts otherwise', () => {
  const row: (Support | undefined)[] = ['stated', 'stated', undefined, 'stated', 'weaker', 'weaker'];
  expect(barsOf([{ version: '1.0' }], row.length, (_, build) => row[build])).toEqual([
    { release: '1.0', from: 0, to: 1, support: 'stated' },
    { release: '1.0', from: 3, to: 3, support: 'stated' },
    { release: '1.0', from: 4, to: 5, support: 'weaker' },
  ]);
});

it('bars cover just the builds that count, once each', () => {
  const support = fc.option(fc.constantFrom<Support>('stated', 'proven', 'weaker'), { nil: undefined });
  fc.assert(
    fc.property(fc.array(support, { maxLength: 12 }), (row) => {
      const bars = barsOf([{ version: '1' }], row.length, (_, build) => row[build]);
      const back = row.map((_, build) => bars.filter(({ from, to }) => from <= build && build <= to));
      expect(back.map((covering) => covering[0]?.support)).toEqual(row);
      expect(back.every((covering) => covering.length <= 1)).toBe(true);
      // Neighbours that count alike are one bar.
      bars.slice(1).forEach((bar, i) => {
        const before = bars[i]!;
        expect(before.to + 1 === bar.from && before.support === bar.support).toBe(false);
      });
    }),
  );
});
