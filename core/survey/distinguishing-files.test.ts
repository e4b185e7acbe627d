import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot, type BuildLabel, type Depot } from '#core/builds';
import type { LaidFile } from '#core/manifest';
import { digest, keyOf } from '../testing/digest';
import { cheapestCover } from './separate';
import { quickIdentities, distinguishingFiles } from './distinguishing-files';

const CORE: Depot = { id: asDepot('core'), title: 'core', kind: 'core', order: 1, orderMatters: false };

const laid = (path: string, text: string): LaidFile => ({
  path,
  size: text.length,
  key: keyOf(text),
  sha256: digest(text),
  pieces: [digest(text)],
  depot: CORE.id,
  covers: [],
});

type Builds = Record<string, Record<string, string>>;

const treesOf = (builds: Builds): Map<BuildLabel, LaidFile[]> =>
  new Map(
    Object.entries(builds).map(([build, files]) => [
      asBuild(build),
      Object.entries(files)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([path, text]) => laid(path, text)),
    ]),
  );

/** A quick look at a folder that holds these files. */
function lookAt(builds: Builds, folder: Record<string, string>) {
  const trees = treesOf(builds);
  const { files } = distinguishingFiles(trees);
  const sizes = new Map(Object.entries(folder).map(([path, text]) => [path, text.length]));
  const here = files.filter(({ path }) => sizes.has(path));
  const read = new Map(here.map(({ path }) => [path, keyOf(folder[path]!)]));
  return quickIdentities([CORE], trees, sizes, files, read)[0]!;
}

const paths = (builds: Builds): string[] => distinguishingFiles(treesOf(builds)).files.map(({ path }) => path);

describe('the files that tell builds apart', () => {
  it('are none where names or sizes do', () => {
    expect(paths({ '1': { a: 'x' }, '2': { a: 'xx' }, '3': { a: 'x', b: '' } })).toEqual([]);
  });

  it('are those of the fewest bytes, be they several instead of one', () => {
    const large = 'l'.repeat(50);
    const builds = {
      '1': { large: `${large}1`, p: 'a', q: 'a' },
      '2': { large: `${large}2`, p: 'b', q: 'a' },
      '3': { large: `${large}3`, p: 'b', q: 'b' },
    };
    expect(paths(builds)).toEqual(['p', 'q']);
    expect(distinguishingFiles(treesOf(builds)).smallest).toBe(true);
  });

  it('tell a great many builds apart where the cheapest set would take too long to find', () => {
    // Each of the files has another byte from three builds on, so that names and sizes tell nothing.
    const [builds, files] = [90, 600];
    const placed = (n: number): number => 1 + (((n * 48271) % 2147483647) % (builds - 1));
    const from = Array.from({ length: files }, (_, i) =>
      [1, 2, 3].map((which) => placed((i + 1) * 977 * which * which)),
    );
    const textAt = (build: number, i: number): string => String(from[i]!.filter((change) => change <= build).length);
    const trees = treesOf(
      Object.fromEntries(
        Array.from({ length: builds }, (_, build) => [
          `1.${build}`,
          Object.fromEntries(from.map((_, i) => [`file-${i}`, `${'-'.repeat(i % 30)}${i}:${textAt(build, i)}`])),
        ]),
      ),
    );
    const { files: told, smallest } = distinguishingFiles(trees);
    expect(smallest).toBe(false);
    const wanted = new Set(told.map(({ path }) => path));
    const read = [...trees.values()].map((tree) =>
      tree.flatMap(({ path, key }) => (wanted.has(path) ? [key] : [])).join(),
    );
    expect(new Set(read).size).toBe(builds);
    expect(told.length).toBeLessThan(builds);
    // Each tells three builds from what was before, so some thirty are needed; most have over 18 bytes.
    expect(told.reduce((sum, { size }) => sum + size, 0)).toBeLessThan(350);
  });

  it('are none for builds that do not differ', () => {
    expect(paths({ '1': { a: 'x' }, '2': { a: 'x' } })).toEqual([]);
  });
});

const buildsArbitrary: fc.Arbitrary<Builds> = fc
  .array(
    fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd', 'e'), fc.constantFrom('x', 'y', 'z', 'xx', 'yy'), {
      minKeys: 1,
      noNullPrototype: true,
    }),
    { minLength: 1, maxLength: 7 },
  )
  .map((builds) => Object.fromEntries(builds.map((files, i) => [`1.${i}`, files])));

it('a quick look names each build that lies there whole, and with it only builds of the same bytes', () => {
  fc.assert(
    fc.property(buildsArbitrary, (builds) => {
      for (const [label, files] of Object.entries(builds)) {
        const same = (other: Record<string, string>): boolean =>
          JSON.stringify(Object.entries(other).sort()) === JSON.stringify(Object.entries(files).sort());
        const { builds: told, bytesAgree, fitting, total } = lookAt(builds, files);
        expect(told).toContain(label);
        expect([bytesAgree, fitting]).toEqual([true, total]);
        // A build that is part of another fits as well as that one, when all of its files are there.
        const whole = told.filter((build) => Object.keys(builds[build]!).length === Object.keys(files).length);
        expect(whole.every((build) => same(builds[build]!))).toBe(true);
      }
    }),
  );
});

it('a quick look says when a distinguishing file has bytes of no build', () => {
  const builds = { '1': { a: 'x', b: 'same' }, '2': { a: 'y', b: 'same' } };
  expect(lookAt(builds, { a: '?', b: 'same' })).toMatchObject({ builds: ['1', '2'], bytesAgree: false });
  expect(lookAt(builds, { b: 'other size' })).toMatchObject({ builds: [], total: 0 });
});

it('a cover is as cheap as the cheapest of all subsets', () => {
  const separator = fc.record({
    path: fc.string(),
    cost: fc.integer({ min: 0, max: 20 }),
    tells: fc.uniqueArray(fc.integer({ min: 0, max: 5 }), { minLength: 1 }),
  });
  fc.assert(
    fc.property(fc.array(separator, { minLength: 1, maxLength: 8 }), (separators) => {
      const pairs = [...new Set(separators.flatMap(({ tells }) => tells))];
      const cost = (some: readonly { cost: number }[]): number => some.reduce((sum, one) => sum + one.cost, 0);
      let cheapest = Infinity;
      for (let mask = 0; mask < 1 << separators.length; mask++) {
        const some = separators.filter((_, i) => mask & (1 << i));
        const told = new Set(some.flatMap(({ tells }) => tells));
        if (told.size === pairs.length) cheapest = Math.min(cheapest, cost(some));
      }
      const { chosen, cheapest: proven } = cheapestCover(pairs, separators);
      expect(proven).toBe(true);
      expect(new Set(chosen.flatMap(({ tells }) => tells)).size).toBe(pairs.length);
      expect(cost(chosen)).toBe(cheapest);
    }),
  );
});
