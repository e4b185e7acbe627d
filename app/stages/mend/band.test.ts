import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { FileChange } from '#core/mend';
import { bandOf, CHANGES, LEAST_HEIGHT } from './band';

const changeArbitrary = fc
  .tuple(fc.nat(25), fc.nat(9), fc.constantFrom(...CHANGES), fc.nat(1000))
  .map(([folder, name, change, bytes]): FileChange => {
    const path = folder === 0 ? `f${name}` : `d${folder}/f${name}`;
    return change === 'moved' ? { path, change, to: `gone-to/${name}`, bytes } : { path, change, bytes };
  });

it('the band has every file and byte in one part, fills its height, and leaves each name room', () => {
  fc.assert(
    fc.property(fc.array(changeArbitrary, { minLength: 1 }), fc.integer({ min: 40, max: 1200 }), (changes, height) => {
      const { parts, partOf } = bandOf(changes, height);
      const sum = (of: (part: (typeof parts)[number]) => number): number =>
        parts.reduce((all, part) => all + of(part), 0);
      expect(sum(({ files }) => files)).toBe(changes.length);
      expect(sum(({ bytes }) => bytes)).toBe(changes.reduce((all, { bytes }) => all + bytes, 0));
      expect(sum(({ kinds }) => CHANGES.reduce((all, kind) => all + kinds[kind], 0))).toBe(changes.length);
      expect(sum((part) => part.height)).toBeCloseTo(height);
      let top = 0;
      for (const part of parts) {
        expect(part.top).toBeCloseTo(top);
        expect(part.height).toBeGreaterThanOrEqual(LEAST_HEIGHT);
        top += part.height;
      }
      for (const { path } of changes) expect(parts).toContain(partOf(path));
    }),
  );
});

it('small folders stand together, and a folder that nothing changed in has no part', () => {
  const of = (folder: string, files: number): FileChange[] =>
    Array.from({ length: files }, (_, i) => ({ path: `${folder}/${i}`, change: 'changed', bytes: 1 }));
  const { parts, partOf } = bandOf([...of('large', 9), ...of('small', 1), ...of('least', 2)], 2 * LEAST_HEIGHT);
  expect(parts.map(({ name, files }) => [name, files])).toEqual([
    ['large', 9],
    ['2 others', 3],
  ]);
  expect(partOf('small/x')).toBe(parts[1]);
  // A file may be moved to where the patch changes nothing else.
  expect(partOf('elsewhere/x')).toBeUndefined();
  expect(bandOf([], 100).parts).toEqual([]);
});
