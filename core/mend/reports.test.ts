import fc from 'fast-check';
import { expect, it } from 'vitest';
import { shareThatRuns } from './reports';

it('three of three do not beat 180 of 190', () => {
  const few = shareThatRuns({ for: 3, against: 0 });
  const many = shareThatRuns({ for: 180, against: 10 });
  expect(few.low).toBeCloseTo(0.4385, 3);
  expect(many.low).toBeCloseTo(0.9058, 3);
  expect(few.high).toBeCloseTo(1, 10);
});

it('is the roots of (share - p)² = z² p (1 - p) / n, which the interval is made from', () => {
  const count = fc.integer({ min: 0, max: 500 });
  fc.assert(
    fc.property(count, count, (ran, against) => {
      fc.pre(ran + against > 0);
      const { low, high } = shareThatRuns({ for: ran, against });
      const share = ran / (ran + against);
      for (const p of [low, high]) {
        expect((share - p) ** 2).toBeCloseTo((1.959964 ** 2 * p * (1 - p)) / (ran + against), 9);
      }
      expect(low).toBeLessThanOrEqual(share + 1e-12);
      expect(high).toBeGreaterThanOrEqual(share - 1e-12);
    }),
  );
});

it('nobody’s word leaves everything open', () => {
  expect(shareThatRuns({ for: 0, against: 0 })).toEqual({ low: 0, high: 1 });
});
