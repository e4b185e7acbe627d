import fc from 'fast-check';
import { expect, it } from 'vitest';
import { RateSamples } from './rate-samples';

it('loses no byte however long it takes, and stays short', () => {
  const arrivals = fc.array(fc.record({ bytes: fc.nat(1e6), after: fc.nat(600_000) }), { maxLength: 300 });
  fc.assert(
    fc.property(arrivals, (all) => {
      const samples = new RateSamples(1000);
      let now = 1000;
      for (const { bytes, after } of all) samples.add(bytes, (now += after));
      const { step, bytes } = samples.course;
      expect(bytes.length).toBeLessThanOrEqual(120);
      expect(bytes.reduce((sum, some) => sum + some, 0)).toBe(all.reduce((sum, one) => sum + one.bytes, 0));
      if (all.length > 0) expect(bytes.length).toBe(1 + Math.floor((now - 1000) / step));
    }),
  );
});
