import fc from 'fast-check';
import { expect, it } from 'vitest';
import { type ContentKey, contentKey, keySize } from '#core/digest';
import { differences, inParts, roomInParts, roomNeeded, roomOverParts, withoutKeeping } from '.';

const KEYS = Array.from({ length: 8 }, (_, i) => contentKey(i * 10, [i.toString(16).repeat(64)]));
const tree = fc
  .dictionary(fc.constantFrom(...'abcdefgh'), fc.constantFrom(...KEYS))
  .map((files) => new Map(Object.entries(files)));
const listed = fc.uniqueArray(fc.constantFrom(...KEYS)).map((keys) => new Set(keys));
const most = fc.integer({ min: 0, max: 100 });

it('part by part the folder becomes what is wanted, and what is given up is listed and never needed later', () => {
  fc.assert(
    fc.property(tree, tree, listed, most, (wanted, found, source, partBytes) => {
      const folder = new Map(found);
      const [before, needed] = [new Set(found.values()), new Set(wanted.values())];
      for (;;) {
        const waived = withoutKeeping(differences(wanted, folder), wanted, source);
        const [part] = inParts(waived, partBytes);
        if (!part) break;
        for (const { path, wanted: key, found: old } of part) {
          expect(folder.get(path)).toBe(old);
          expect(source.has(old!) && !needed.has(old!)).toBe(true);
          if (key === null) folder.delete(path);
          else folder.set(path, key);
        }
      }
      // What is left for the end displaces only what no source lists, or what is still to be copied from.
      for (const { path, wanted: key, found: old } of differences(wanted, folder)) {
        expect(old === null || !source.has(old) || needed.has(old)).toBe(true);
        if (key === null) folder.delete(path);
        else folder.set(path, key);
      }
      expect([...folder].sort()).toEqual([...wanted].sort());
      // Whatever was wanted and lay somewhere could be copied until the end.
      const given = withoutKeeping(differences(wanted, found), wanted, source).map((one) => one.found!);
      for (const key of given) expect(before.has(key) && !needed.has(key)).toBe(true);
    }),
  );
});

it('the room told is that of the worst part, and what stays', () => {
  fc.assert(
    fc.property(tree, tree, listed, most, (wanted, found, source, partBytes) => {
      const all = differences(wanted, found);
      const waived = withoutKeeping(all, wanted, source);
      const parts = inParts(waived, partBytes);
      expect(parts.flat().length).toBe(waived.length);
      const bytes = (keys: readonly (ContentKey | null)[]): number =>
        keys.reduce((sum, key) => sum + (key === null ? 0 : keySize(key)), 0);
      for (const part of parts) {
        expect(part.length).toBeGreaterThan(0);
        if (part.length > 1) expect(bytes(part.map((one) => one.wanted))).toBeLessThanOrEqual(partBytes);
      }
      const { peak, after } = roomInParts(all, waived, partBytes);
      expect(after).toBe(bytes(all.map((one) => one.wanted)) - bytes(waived.map((one) => one.found)));
      const whole = roomInParts(all, [], partBytes);
      expect(whole.after).toBe(bytes(all.map((one) => one.wanted)));
      expect(Math.max(peak, after)).toBe(peak);
      expect(peak).toBeLessThanOrEqual(Math.max(whole.peak, 0));
    }),
  );
});

it('room over the course of a lay-down in parts: what is fetched comes on top, a part on top of that, and then it goes', () => {
  const room = roomOverParts({ peak: 30, after: 7 }, { oldBytes: 100, fetchedBytes: 20 }, 50);
  expect(room.steps.map(({ after, bytes }) => [after, bytes])).toEqual([
    ['now', 120],
    ['fetch', 170],
    ['write', 200],
    ['swap', 107],
    ['let-go', 107],
  ]);
  expect([room.peak, roomNeeded(room)]).toEqual([200, 80]);
});
