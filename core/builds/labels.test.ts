import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareLabels } from './labels';

describe('labels by their spelling', () => {
  it('stand in the order in which people count', () => {
    const order = [
      '1.9',
      '1.10',
      '2.9.4',
      '2.9.4a',
      '2.9.4b',
      '2.9.4.1',
      '3.0.0-t1',
      '3.0.0-t2',
      '3.0.0-t10',
      '3.0.0',
      '3.0.0a',
      '3.1',
      '4',
    ];
    expect(order.toReversed().toSorted(compareLabels)).toEqual(order);
    expect(compareLabels('v1.2', '1.2')).toBe(0);
    expect(compareLabels('01.2', '1.2')).toBe(0);
  });

  const label = fc.stringMatching(/^[0-9]{1,2}(\.[0-9]{1,2}){0,2}[a-c]?(-t[0-9])?$/);

  it('are in one order whichever two are compared', () => {
    fc.assert(
      fc.property(label, label, label, (a, b, c) => {
        expect(Math.sign(compareLabels(a, b))).toBe(-Math.sign(compareLabels(b, a)) + 0);
        expect(compareLabels(a, a)).toBe(0);
        if (compareLabels(a, b) <= 0 && compareLabels(b, c) <= 0) expect(compareLabels(a, c)).toBeLessThanOrEqual(0);
      }),
    );
  });
});
