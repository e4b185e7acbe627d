import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asMod, type ModId } from '#core/builds';
import { chooseAll } from '#core/choose';
import { inConflict, modById, releaseAt } from '#core/mods';
import { builds, catalogueArbitrary, catalogueOf } from '../testing/mods';
import { afterSteps, madeFor, stepAlone, withNeeds } from './index';

const of = (releases: Record<string, string>): Map<ModId, string> =>
  new Map(Object.entries(releases).map(([id, version]) => [asMod(id), version]));

const catalogue = catalogueOf({
  tow: [
    { version: '1', builds: ['1'] },
    { version: '2', builds: ['2'] },
  ],
  names: [
    { version: '1', builds: ['1'], requires: [{ mod: 'tow', to: '1' }] },
    { version: '2', builds: ['2'], requires: [{ mod: 'tow', from: '2' }] },
  ],
  chart: [
    { version: '1', builds: ['1'], requires: [{ mod: 'names', to: '1' }] },
    { version: '2', builds: ['2'], requires: [{ mod: 'names', from: '2' }] },
  ],
  fog: [{ version: '1', builds: ['1'] }],
  lamp: [{ version: '1', builds: ['2'], conflicts: [{ mod: 'fog' }] }],
  lone: [{ version: '1', builds: ['2'], requires: [{ mod: 'nowhere' }] }],
});
const here = of({ tow: '1', names: '1', chart: '1', fog: '1' });
const wanted = of({ tow: '2', names: '2', chart: '2', lamp: '1' });

describe('a step taken alone', () => {
  it('takes along what it needs, to any depth, and says who is left without what they need', () => {
    expect(stepAlone(catalogue, here, wanted, asMod('chart'), '2')).toEqual({
      moves: [
        { mod: 'chart', from: '1', to: '2' },
        { mod: 'names', from: '1', to: '2' },
        { mod: 'tow', from: '1', to: '2' },
      ],
      unmet: undefined,
      leftWithout: [],
    });
    const { moves, leftWithout } = stepAlone(catalogue, here, wanted, asMod('tow'), '2');
    expect(moves).toHaveLength(1);
    expect(leftWithout).toEqual(['names']);
  });

  it('takes out what it cannot run beside, and names what is not to be had', () => {
    expect(stepAlone(catalogue, here, wanted, asMod('lamp'), '1').moves.slice(1)).toEqual([
      { mod: 'fog', from: '1', to: undefined },
    ]);
    expect(stepAlone(catalogue, here, wanted, asMod('lone'), '1').unmet).toEqual({ mod: 'nowhere' });
  });

  it('does nothing where the folder has it so, and takes one out without the others', () => {
    expect(stepAlone(catalogue, here, wanted, asMod('fog'), '1').moves).toEqual([]);
    expect(stepAlone(catalogue, here, wanted, asMod('names'), undefined)).toMatchObject({
      moves: [{ mod: 'names', from: '1', to: undefined }],
      leftWithout: ['chart'],
    });
  });
});

describe('the build that releases are made for', () => {
  const labels = builds('1', '2');

  it('is that of most of them, of several the newest', () => {
    expect(madeFor(catalogue, here, labels)).toBe('1');
    expect(madeFor(catalogue, wanted, labels)).toBe('2');
    expect(madeFor(catalogue, of({ tow: '1', names: '2' }), labels)).toBe('2');
  });

  it('is unknown where nobody says anything, or of other builds', () => {
    expect(madeFor(catalogue, of({ tow: '9', stranger: '1' }), labels)).toBeUndefined();
    expect(madeFor(catalogue, here, builds('3'))).toBeUndefined();
  });
});

it('mods come with what they need of a set, and nothing else', () => {
  expect([...withNeeds(catalogue, wanted, [asMod('names')])]).toEqual(['names', 'tow']);
});

it('however steps are ordered, after all of them the folder has the set that was worked towards', () => {
  fc.assert(
    fc.property(catalogueArbitrary, fc.infiniteStream(fc.nat()), (some, numbers) => {
      const next = (below: number): number => numbers.next().value! % below;
      const weights = new Map(some.mods.map(({ id }) => [id, 'want'] as const));
      const [choice] = chooseAll([asBuild('1')], some, weights, new Map());
      const before = new Map(
        some.mods.flatMap(({ id, releases }) =>
          next(2) === 0 ? [] : [[id, releases[next(releases.length)]!.version]],
        ),
      );
      const steps = some.mods.map(({ id }) => ({ mod: id })).toSorted(() => next(3) - 1);
      const after = afterSteps(some, before, choice!.runs, [...steps, ...steps]);
      expect(new Map([...after].toSorted())).toEqual(new Map([...choice!.runs].toSorted()));
      for (const [a, version] of after)
        for (const [b, other] of after) {
          const [one, two] = [modById(some, a)!, modById(some, b)!];
          if (a !== b) expect(inConflict(some, a, releaseAt(one, version)!, b, releaseAt(two, other)!)).toBe(false);
        }
    }),
  );
});
