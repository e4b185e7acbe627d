import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { contentKey } from '#core/digest';
import { requestsFor } from './bring';
import { haulsOf, placesInPack } from './hauls';

const PACKS = ['/p', '/q'];
const key = (i: number, size: number) => contentKey(size, [createHash('sha256').update(`${i}`).digest('hex')]);

/** Files of a source, of which the small ones lie in a pack, as far as `wanted` says. */
const wantedFiles = fc
  .array(fc.record({ size: fc.integer({ min: 0, max: 60_000 }), wanted: fc.boolean(), pack: fc.nat(1) }), {
    maxLength: 120,
  })
  .map((all) => {
    const files = all.map(({ size, wanted, pack }, i) => ({ path: `f${i}`, size, wanted, pack, key: key(i, size) }));
    const places = PACKS.map((_, pack) =>
      placesInPack(
        files.filter((file) => file.pack === pack),
        40_000,
      ),
    );
    return files.flatMap(({ path, size, wanted, pack, key }) => {
      const start = places[pack]!.get(path);
      if (!wanted) return [];
      return [{ path, size, key, sources: [], ...(start !== undefined && { packed: { href: PACKS[pack]!, start } }) }];
    });
  });

it('hauls hold every file once, and those of a pack lie in its range', () => {
  fc.assert(
    fc.property(wantedFiles, (files) => {
      const hauls = haulsOf(files.toSorted((a, b) => b.size - a.size));
      expect(hauls.flatMap((haul) => haul.files.map(({ path }) => path)).toSorted()).toEqual(
        files.map(({ path }) => path).toSorted(),
      );
      for (const { files: some, pack } of hauls) {
        expect(some.length).toBeGreaterThan(pack ? 1 : 0);
        if (!pack) continue;
        let at = pack.start;
        for (const { packed, size } of some) {
          expect(packed!.href).toBe(pack.href);
          expect(packed!.start).toBeGreaterThanOrEqual(at);
          expect(packed!.start - at).toBeLessThanOrEqual(16 << 10);
          at = packed!.start + size;
        }
        expect(at).toBe(pack.end);
      }
    }),
  );
});

it('ten thousand small files of a pack come by a few requests', () => {
  const files = Array.from({ length: 10_000 }, (_, i) => ({
    path: `f${i}`,
    size: 6000,
    key: key(i, 6000),
    sources: [],
  }));
  const places = placesInPack(files, 40_000);
  const packed = files.map((file) => ({ ...file, packed: { href: '/p', start: places.get(file.path)! } }));
  expect(requestsFor(packed)).toBe(20);
  expect(requestsFor(files)).toBe(10_000);
});
