import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asMod, type ModId } from '#core/builds';
import type { Weight } from '#core/mods';
import { builds, catalogueOf, type ReleaseSketch } from '../testing/mods';
import { bestSet, whyNotAll } from './index';
import { cases } from '../testing/cases';

const BUILDS = builds('1', '2', '3');
const ids = (...names: string[]): ModId[] => names.map(asMod);
function ask(catalogue: ReturnType<typeof catalogueOf>, mustHaves: ModId[], build = '3', pins?: Map<ModId, string>) {
  const input = { catalogue, mustHaves, build: asBuild(build), builds: BUILDS, ...(pins && { pins }) };
  const why = whyNotAll(input);
  // So few facts are always searched to the end.
  expect(why?.fewest ?? true).toBe(true);
  return why?.facts;
}

describe('why not all must-haves run', () => {
  const catalogue = catalogueOf({
    fuel: [{ version: '1.9', builds: ['1', '2', '3'], requires: [{ mod: 'tow', from: '1.12', to: '1.14' }] }],
    tow: [
      { version: '1.12', builds: ['1'] },
      { version: '1.14', builds: ['1', '2'] },
      { version: '2.0', builds: ['3'] },
    ],
    lamp: [{ version: '1', builds: ['3'] }],
    fog: [{ version: '1', builds: ['3'], conflicts: [{ mod: 'lamp' }] }],
    old: [{ version: '1', builds: ['1'] }],
  });

  it('names the need, and the newest build with a release that meets it', () => {
    expect(ask(catalogue, ids('lamp', 'fuel'))).toEqual([
      { kind: 'wanted', mod: 'fuel' },
      { kind: 'needs', mod: 'fuel', releases: ['1.9'], oneOf: [{ mod: 'tow', from: '1.12', to: '1.14' }] },
      { kind: 'none-here', mod: 'tow', ranges: [{ mod: 'tow', from: '1.12', to: '1.14' }], newestWith: '2' },
    ]);
  });

  it('takes a mod that fails by itself with the fewest facts before others', () => {
    expect(ask(catalogue, ids('fuel', 'old', 'lamp', 'fog'))).toEqual([
      { kind: 'wanted', mod: 'old' },
      { kind: 'none-here', mod: 'old', ranges: [], newestWith: '1' },
    ]);
  });

  it('names two that only fail together', () => {
    const facts = ask(catalogue, ids('lamp', 'fog'))!;
    expect(facts.filter(({ kind }) => kind === 'wanted').map(({ mod }) => mod)).toEqual(['lamp', 'fog']);
    expect(facts).toContainEqual({ kind: 'conflict', mod: 'fog', releases: ['1'], with: { mod: 'lamp' } });
  });

  it('names a pin that stands in the way', () => {
    const facts = ask(catalogue, ids('tow'), '3', new Map([[asMod('tow'), '1.14']]))!;
    expect(facts).toEqual([
      { kind: 'wanted', mod: 'tow' },
      { kind: 'pinned', mod: 'tow', release: '1.14' },
      { kind: 'only-here', mod: 'tow', releases: ['2.0'] },
    ]);
  });

  it('says nothing where all can run', () => {
    expect(ask(catalogue, ids('fuel', 'tow'), '2')).toBeUndefined();
    expect(ask(catalogue, [])).toBeUndefined();
  });
});

const names = ['a', 'b', 'c', 'd', 'e'];
const rangeArbitrary = fc.record({ mod: fc.constantFrom(...names) });
const releaseArbitrary = fc.record({
  builds: fc.subarray(['1', '2', '3']),
  requires: fc.array(rangeArbitrary, { maxLength: 2 }),
  conflicts: fc.array(rangeArbitrary, { maxLength: 1 }),
});
const catalogueArbitrary = fc
  .array(fc.array(releaseArbitrary, { minLength: 1, maxLength: 2 }), { minLength: 5, maxLength: 5 })
  .map((mods) =>
    catalogueOf(
      Object.fromEntries(
        mods.map((releases, i): [string, ReleaseSketch[]] => [
          names[i]!,
          releases.map((release, place) => ({ version: String(place + 1), ...release })),
        ]),
      ),
    ),
  );

it('there are facts exactly where the best set lacks a must-have', () => {
  fc.assert(
    fc.property(catalogueArbitrary, fc.subarray(names), (catalogue, musts) => {
      const weights = new Map<ModId, Weight>(musts.map((id) => [asMod(id), 'must']));
      for (const build of BUILDS) {
        const { lost } = bestSet({ catalogue, weights, build }, BUILDS);
        const facts = ask(catalogue, ids(...musts), build);
        expect(facts !== undefined).toBe(lost.size > 0);
        // Whoever is named is a must-have, and someone is.
        const wanted = facts?.filter(({ kind }) => kind === 'wanted').map(({ mod }) => mod) ?? [];
        expect(musts).toEqual(expect.arrayContaining(wanted));
        if (facts) expect(wanted.length).toBeGreaterThan(0);
      }
    }),
    { numRuns: cases(120) },
  );
});
