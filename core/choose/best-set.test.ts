import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asMod, type ModId } from '#core/builds';
import { type Catalogue, inRange, modById, type Release, type Weight } from '#core/mods';
import { ARBITRARY_IDS, builds, catalogueArbitrary, catalogueOf } from '../testing/mods';
import { bestSet, candidatesAt, type Pins } from './best-set';
import { changesOf, chooseAll } from './board';
import { cases } from '../testing/cases';

const BUILD = asBuild('1');
const VALUE: Record<Weight, number> = { must: 1_000_000, want: 1_000, spare: 1 };
type Set = Map<ModId, Release>;

function isValid(catalogue: Catalogue, set: Set): boolean {
  const meets = (need: { mod: ModId; from?: string | undefined; to?: string | undefined }): boolean => {
    const chosen = set.get(need.mod);
    return chosen !== undefined && inRange(modById(catalogue, need.mod)!, chosen.version, need);
  };
  return [...set.values()].every(
    (release) =>
      release.builds.includes(BUILD) &&
      !release.brokenOn.includes(BUILD) &&
      release.requires.every(meets) &&
      release.requiresOneOf.every((some) => some.some(meets)) &&
      !release.conflicts.some(meets),
  );
}

interface Wishes {
  readonly weights: ReadonlyMap<ModId, Weight>;
  readonly pins: Pins;
  readonly installed: ReadonlyMap<ModId, string>;
  readonly evidence: (mod: ModId, version: string) => number;
}

/** What sets are ordered by, one thing after the other; the larger is the better. */
function goodness(set: ReadonlyMap<ModId, string>, catalogue: Catalogue, wishes: Wishes): number[] {
  const { weights, installed, evidence } = wishes;
  const candidates = candidatesAt(catalogue, BUILD);
  const sum = (of: (id: ModId, version: string) => number): number =>
    [...set].reduce((all, [id, version]) => all + of(id, version), 0);
  return [
    sum((id) => (weights.has(id) ? VALUE[weights.get(id)!] : 0)),
    sum((id) => (weights.has(id) ? 0 : -1)),
    sum(evidence),
    sum((id, version) => (installed.get(id) === version ? 1 : 0)),
    sum((id, version) => 0 - candidates.get(id)!.findIndex((release) => release.version === version)),
  ];
}

const isBetter = (a: readonly number[], b: readonly number[]): boolean => {
  const place = a.findIndex((n, i) => n !== b[i]);
  return place >= 0 && a[place]! > b[place]!;
};

/** How good the best valid set is, found by looking at every set there is. */
function bestByEnumeration(catalogue: Catalogue, wishes: Wishes): number[] {
  let best = [0, 0, 0, 0, 0];
  const set: Set = new Map();
  const visit = (place: number): void => {
    const mod = catalogue.mods[place];
    if (!mod) {
      if (!isValid(catalogue, set)) return;
      const own = goodness(new Map([...set].map(([id, { version }]) => [id, version])), catalogue, wishes);
      if (isBetter(own, best)) best = own;
      return;
    }
    visit(place + 1);
    const pin = wishes.pins.get(mod.id);
    for (const release of mod.releases) {
      if (pin !== undefined && pin !== release.version) continue;
      set.set(mod.id, release);
      visit(place + 1);
      set.delete(mod.id);
    }
  };
  visit(0);
  return best;
}

const caseArbitrary = fc.record({
  catalogue: catalogueArbitrary,
  weights: fc.tuple(
    ...ARBITRARY_IDS.map(() => fc.constantFrom<Weight | undefined>('must', 'want', 'spare', undefined)),
  ),
  pins: fc.tuple(
    ...ARBITRARY_IDS.map(() =>
      fc.constantFrom<string | null | undefined>(undefined, undefined, undefined, '1', '2', null),
    ),
  ),
  installed: fc.tuple(...ARBITRARY_IDS.map(() => fc.constantFrom(undefined, '1', '2'))),
  evidence: fc.tuple(
    ...ARBITRARY_IDS.map(() => fc.tuple(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 0, max: 4 }))),
  ),
});

const mapOf = <T>(values: readonly (T | undefined)[]): Map<ModId, T> =>
  new Map(ARBITRARY_IDS.flatMap((id, i) => (values[i] === undefined ? [] : [[asMod(id), values[i]] as const])));

describe('the best set', () => {
  it('is valid and worth as much as the best of all sets', () => {
    fc.assert(
      fc.property(caseArbitrary, ({ catalogue, weights: chosen, pins: pinned, installed, evidence }) => {
        const wishes: Wishes = {
          weights: mapOf(chosen),
          pins: mapOf(pinned),
          installed: mapOf(installed),
          evidence: (mod, version) => evidence[ARBITRARY_IDS.indexOf(mod)]![Number(version) - 1]!,
        };
        const { weights } = wishes;
        const best = bestSet({ catalogue, build: BUILD, ...wishes }, builds('1', '2'));
        const releases: Set = new Map(
          [...best.runs].map(([id, version]) => [
            id,
            modById(catalogue, id)!.releases.find((release) => release.version === version)!,
          ]),
        );
        expect(isValid(catalogue, releases)).toBe(true);
        expect([best.exact, best.tieExact]).toEqual([true, true]);
        expect(goodness(best.runs, catalogue, wishes)).toEqual(bestByEnumeration(catalogue, wishes));
        expect([best.value, best.gap]).toEqual([goodness(best.runs, catalogue, wishes)[0], 0]);
        for (const id of weights.keys()) expect(best.runs.has(id)).toBe(!best.lost.has(id));
      }),
      { numRuns: cases(800), seed: 7 },
    );
  });

  it('is as good after other questions as for one who was never asked', () => {
    fc.assert(
      fc.property(fc.array(caseArbitrary, { minLength: 2, maxLength: 6 }), ([first, ...others]) => {
        const { catalogue } = first!;
        const evidence = (): number => 0;
        let [weights, pins, installed] = [mapOf(first!.weights), mapOf(first!.pins), mapOf(first!.installed)];
        for (const [i, other] of others.entries()) {
          bestSet({ catalogue, build: BUILD, weights, pins, installed, evidence }, builds('1', '2'));
          // Now one wish is another one, now all of them.
          weights = mapOf(i % 2 === 0 ? first!.weights.with(i, other.weights[i]) : other.weights);
          if (i % 2 === 1) [pins, installed] = [mapOf(other.pins), mapOf(other.installed)];
          const wishes = { weights, pins, installed, evidence };
          const after = bestSet({ catalogue, build: BUILD, ...wishes }, builds('1', '2'));
          const fresh = bestSet({ catalogue: structuredClone(catalogue), build: BUILD, ...wishes }, builds('1', '2'));
          expect(after.value).toBe(fresh.value);
          expect(goodness(after.runs, catalogue, wishes)).toEqual(goodness(fresh.runs, catalogue, wishes));
          expect([...after.lost.keys()]).toEqual([...weights.keys()].filter((id) => !after.runs.has(id)));
        }
      }),
      { numRuns: cases(200), seed: 8 },
    );
  });

  it('prefers one must-have to many wants', () => {
    const conflicts = [{ mod: 'must' }];
    const want = [{ version: '1', builds: ['1'], conflicts }];
    const catalogue = catalogueOf({ must: [{ version: '1', builds: ['1'] }], w1: want, w2: want, w3: want });
    const weights = new Map<ModId, Weight>([
      [asMod('must'), 'must'],
      [asMod('w1'), 'want'],
      [asMod('w2'), 'want'],
      [asMod('w3'), 'want'],
    ]);
    const { runs, lost } = bestSet({ catalogue, weights, build: BUILD }, builds('1'));
    expect([...runs.keys()]).toEqual(['must']);
    expect(lost.get(asMod('w1'))).toEqual({ why: 'conflict', release: '1', with: 'must' });
  });

  it('heeds optional requirements, which only add', () => {
    const catalogue = catalogueOf({
      lamp: [{ version: '1', builds: ['1'], optional: [{ mod: 'fog', to: '1' }, { mod: 'spare' }, { mod: 'nobody' }] }],
      fog: [
        { version: '1', builds: ['1'] },
        { version: '2', builds: ['1'] },
      ],
      spare: [{ version: '1', builds: ['1'] }],
    });
    const weights = new Map<ModId, Weight>([
      [asMod('lamp'), 'want'],
      [asMod('fog'), 'want'],
    ]);
    const { runs } = bestSet({ catalogue, weights, build: asBuild('1') }, builds('1'));
    // The older fog is the one that the lamps can use; a mod that nobody wants does not come in for it.
    expect([...runs]).toEqual([
      ['lamp', '1'],
      ['fog', '1'],
    ]);
  });

  it('does not bring in a mod that nobody asked for or needs', () => {
    const catalogue = catalogueOf({
      mine: [{ version: '1', builds: ['1'], requires: [{ mod: 'base' }] }],
      base: [{ version: '1', builds: ['1'] }],
      other: [{ version: '1', builds: ['1'], requires: [{ mod: 'base' }] }],
    });
    const { runs } = bestSet({ catalogue, weights: new Map([[asMod('mine'), 'want']]), build: BUILD }, builds('1'));
    expect([...runs.keys()].sort()).toEqual(['base', 'mine']);
  });

  it('tells a lost requirement down to its cause', () => {
    const catalogue = catalogueOf({
      mine: [{ version: '2', builds: ['1', '2'], requires: [{ mod: 'base', to: '1' }] }],
      base: [{ version: '1', builds: ['1'] }],
    });
    const weights = new Map<ModId, Weight>([[asMod('mine'), 'must']]);
    const { lost } = bestSet({ catalogue, weights, build: asBuild('2') }, builds('1', '2'));
    expect(lost.get(asMod('mine'))).toEqual({
      why: 'requirement',
      release: '2',
      needs: { mod: 'base', to: '1' },
      cause: { why: 'no-release', newestWith: '1' },
    });
  });
});

it('a choice says what goes back and what goes forward from what is installed', () => {
  const catalogue = catalogueOf({
    older: [
      { version: '1', builds: ['1'] },
      { version: '2', builds: ['2'] },
    ],
    newer: [
      { version: '1', builds: ['2'] },
      { version: '2', builds: ['1'] },
    ],
  });
  const weights = new Map<ModId, Weight>([
    [asMod('older'), 'want'],
    [asMod('newer'), 'want'],
  ]);
  const installed = new Map([
    [asMod('older'), '2'],
    [asMod('newer'), '1'],
  ]);
  const [choice] = chooseAll([BUILD], catalogue, weights, installed);
  expect(changesOf(choice!, installed, catalogue)).toEqual({
    back: [{ mod: 'older', from: '2', to: '1' }],
    forward: [{ mod: 'newer', from: '1', to: '2' }],
  });
});
