import fc from 'fast-check';
import { type BuildLabel, asBuild } from '#core/builds';
import { type Catalogue, CatalogueSchema } from '#core/mods';

/** A release in short, for tests; whatever is left out is empty. */
export interface ReleaseSketch {
  version: string;
  date?: string;
  builds?: string[];
  requires?: { mod: string; from?: string; to?: string }[];
  requiresOneOf?: { mod: string; from?: string; to?: string }[][];
  optional?: { mod: string; from?: string; to?: string }[];
  conflicts?: { mod: string; from?: string; to?: string }[];
  /** Undefined, where it is said: nobody knows. */
  touches?: string[] | undefined;
  brokenOn?: string[];
  programs?: string[];
  reports?: { build: string; for: number; against: number }[];
  files?: { path: string; size: number; sha256: string; href: string }[];
}

/** A catalogue of mods whose ids are the keys; releases stand from old to new. */
export function catalogueOf(mods: Record<string, ReleaseSketch[]>, kinds: Record<string, string> = {}): Catalogue {
  return CatalogueSchema.parse({
    format: 'regressum-mod-catalogue',
    version: 1,
    mods: Object.entries(mods).map(([id, releases]) => ({
      id,
      name: id,
      author: 'A Tester',
      kind: kinds[id] ?? 'script',
      lookedAfter: true,
      summary: '',
      releases: releases.map((release) => ({ date: '2026-01-01', builds: [], touches: [], files: [], ...release })),
    })),
  });
}

export const builds = (...labels: string[]): BuildLabel[] => labels.map(asBuild);

/** The mods of {@link catalogueArbitrary}. */
export const ARBITRARY_IDS = ['a', 'b', 'c', 'd', 'e', 'f'];
const rangeArbitrary = fc.record({
  mod: fc.constantFrom(...ARBITRARY_IDS),
  from: fc.constantFrom(undefined, '1', '2'),
  to: fc.constantFrom(undefined, '1', '2'),
});
const releaseArbitrary = fc.record({
  builds: fc.constantFrom<string[]>(['1'], ['1'], ['1'], ['2']),
  brokenOn: fc.constantFrom<string[]>([], [], [], ['1']),
  requires: fc.array(rangeArbitrary, { maxLength: 2 }),
  requiresOneOf: fc.array(fc.array(rangeArbitrary, { minLength: 2, maxLength: 3 }), { maxLength: 1 }),
  conflicts: fc.array(rangeArbitrary, { maxLength: 1 }),
});
/** Takes out what no catalogue says: undefined ends of ranges, and a mod that speaks of itself. */
const tidy = (id: string, ranges: { mod: string; from?: string | undefined; to?: string | undefined }[]) =>
  ranges
    .filter(({ mod }) => mod !== id)
    .map(({ mod, from, to }) => ({ mod, ...(from ? { from } : {}), ...(to ? { to } : {}) }));

/** Catalogues of a few mods with one or two releases each, tied by requirements and conflicts at random. */
export const catalogueArbitrary: fc.Arbitrary<Catalogue> = fc
  .tuple(...ARBITRARY_IDS.map(() => fc.array(releaseArbitrary, { minLength: 1, maxLength: 2 })))
  .map((mods) =>
    catalogueOf(
      Object.fromEntries(
        ARBITRARY_IDS.map((id, i) => [
          id,
          mods[i]!.map((release, j) => ({
            ...release,
            version: String(j + 1),
            requires: tidy(id, release.requires),
            requiresOneOf: release.requiresOneOf.map((some) => tidy(id, some)).filter((some) => some.length > 0),
            conflicts: tidy(id, release.conflicts),
          })),
        ]),
      ),
    ),
  );
