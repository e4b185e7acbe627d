import fc from 'fast-check';
import { expect, it } from 'vitest';
import { pieceCount } from '#core/digest';
import { batches, hashWishes } from './batches';

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

it('a file is read whole, or in spans that have each of its pieces once and are of a size that a worker reads in a moment', () => {
  const pieceSizes = fc.constantFrom(undefined, 1 << 18, 1 << 20, 16 << 20, 2 ** 30);
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 33 }), pieceSizes, (size, pieceSize) => {
      const wishes = hashWishes('a', size, pieceSize);
      const cut = pieceSize ?? 1 << 20;
      expect(wishes.every((wish) => wish.path === 'a' && wish.size === size)).toBe(true);
      expect(wishes.every((wish) => (wish.pieceSize ?? 1 << 20) === cut)).toBe(true);
      let at = 0;
      for (const { span = { first: 0, end: pieceCount(size, cut) } } of wishes) {
        expect(span.first).toBe(at);
        expect((span.end - span.first) * cut).toBeLessThanOrEqual(Math.max(64 << 20, cut));
        at = span.end;
      }
      expect(at).toBe(pieceCount(size, cut));
    }),
  );
});
