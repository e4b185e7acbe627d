import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { PlannedFrame } from './by-frames';
import { frameRuns, haulsOf } from './hauls';

const name = (i: number): string => String(i).padStart(64, '0');

/** Frames of bundles, one behind the other, each with pieces of some of sixty files; one bundle comes as a whole only. */
const world = fc.record({
  files: fc.uniqueArray(fc.nat(59)).map((all) => all.map((i) => ({ sha256: name(i), size: 60_000 - 1000 * i }))),
  frames: fc
    .array(
      fc.record({
        bundle: fc.constantFrom('/p', '/q', '/whole'),
        gap: fc.constantFrom(0, 0, 9_000, 40_000),
        length: fc.integer({ min: 1, max: 3 << 20 }),
        contents: fc.uniqueArray(fc.nat(59), { minLength: 1, maxLength: 4 }),
      }),
      { maxLength: 30 },
    )
    .map((all) => {
      const ends = new Map<string, number>();
      return all.map(({ bundle, gap, length, contents }): PlannedFrame => {
        const start = (ends.get(bundle) ?? 0) + gap;
        ends.set(bundle, start + length);
        const parts = contents.map((i, at) => ({ sha256: name(i), at, start: at, end: at + 1 }));
        const frame = { href: bundle, start, end: start + length, size: contents.length, prefix: [], parts };
        return bundle === '/whole' ? { ...frame, inWhole: true } : frame;
      });
    }),
});

it('hauls hold every file once, with all frames that bring some of it', () => {
  fc.assert(
    fc.property(world, ({ files, frames }) => {
      const hauls = haulsOf(files, frames);
      const names = files.map(({ sha256 }) => sha256);
      expect(hauls.flatMap((haul) => haul.files.map(({ sha256 }) => sha256)).toSorted()).toEqual(names.toSorted());
      expect(hauls.every((haul) => haul.files.length > 0)).toBe(true);
      const wanted = frames.filter(({ parts }) => parts.some(({ sha256 }) => names.includes(sha256)));
      expect(new Set(hauls.flatMap((haul) => haul.frames))).toEqual(new Set(wanted));
      expect(hauls.flatMap((haul) => haul.frames)).toHaveLength(wanted.length);
      expect(hauls.filter((haul) => haul.frames.some(({ inWhole }) => inWhole)).length).toBeLessThan(2);
      for (const { files: some, frames: own } of hauls) {
        const inHaul = new Set(some.map(({ sha256 }) => sha256));
        for (const { parts } of own)
          for (const { sha256 } of parts) expect(inHaul.has(sha256)).toBe(names.includes(sha256));
      }
    }),
  );
});

it('neighbours are asked for together, as far as little comes along that nobody needs', () => {
  fc.assert(
    fc.property(world, ({ frames }) => {
      const runs = frameRuns(frames);
      expect(runs.flatMap((run) => run.frames)).toHaveLength(frames.length);
      expect(runs.filter(({ isAll }) => isAll).length).toBeLessThan(2);
      for (const { href, start, end, isAll, frames: some } of runs) {
        if (isAll) {
          expect([href, start, end]).toEqual(['/whole', 0, some.at(-1)!.end]);
          continue;
        }
        expect([some[0]!.start, some.at(-1)!.end]).toEqual([start, end]);
        some.forEach((frame, i) => {
          expect(frame.href).toBe(href);
          if (i === 0) return;
          const gap = frame.start - some[i - 1]!.end;
          expect(gap).toBeGreaterThanOrEqual(0);
          expect(gap).toBeLessThanOrEqual(16 << 10);
        });
        if (some.length > 1) expect(end - start).toBeLessThanOrEqual(8 << 20);
      }
    }),
  );
});
