import fc from 'fast-check';
import { expect, it } from 'vitest';
import { batches } from './batches';

it('batches hold every file once, in order, and are small enough', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 20e6 }), { maxLength: 200 }), (sizes) => {
      const files = sizes.map((size, id) => ({ id, size }));
      const cut = batches(files);
      expect(cut.flat()).toEqual(files);
      for (const batch of cut) {
        expect(batch.length).toBeGreaterThan(0);
        expect(batch.length).toBeLessThanOrEqual(32);
        // A file that is larger than a batch stands alone.
        if (batch.length > 1) expect(batch.reduce((sum, { size }) => sum + size, 0)).toBeLessThanOrEqual(16e6);
      }
    }),
  );
});
