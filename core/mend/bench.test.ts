import { describe, expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import { builds } from '../testing/mods';
import { type BenchNow, factsOfMoves, isDue, movesOfFacts, type Until } from './index';

const now: BenchNow = {
  ...{ day: '2027-03-01', builds: builds('1', '2', '3', '4'), onDisk: asBuild('2'), out: asBuild('3') },
  ...{ releases: [{ version: 'a' }, { version: 'b' }], runs: false },
};
const due = (until: Until | undefined, more: Partial<BenchNow> = {}): boolean =>
  isDue({ mod: asMod('m'), reason: '', at: 0, ...(until && { until }) }, { ...now, ...more });

describe('a mod on the bench is due', () => {
  it.each<[Until | undefined, boolean, Partial<BenchNow>?]>([
    [{ kind: 'day', day: '2027-03-01' }, true],
    [{ kind: 'day', day: '2027-03-02' }, false],
    [{ kind: 'build', build: asBuild('2') }, true],
    [{ kind: 'build', build: asBuild('1') }, true],
    [{ kind: 'build', build: asBuild('3') }, false],
    [{ kind: 'build', build: asBuild('9') }, false],
    [{ kind: 'build', build: asBuild('1') }, false, { onDisk: undefined }],
    [{ kind: 'patch', after: asBuild('2') }, true],
    [{ kind: 'patch', after: asBuild('3') }, false],
    [{ kind: 'patch' }, true],
    // A build that only a few can have is none that is out.
    [{ kind: 'patch', after: asBuild('3') }, true, { out: asBuild('4') }],
    [{ kind: 'patch' }, false, { out: undefined }],
    [{ kind: 'release', after: 'a' }, true],
    [{ kind: 'release', after: 'b' }, false],
    [{ kind: 'release' }, false, { releases: [] }],
    [{ kind: 'runs' }, false],
    [{ kind: 'runs' }, true, { runs: true }],
    [{ kind: 'group' }, false, { runs: true }],
    [undefined, false, { runs: true }],
  ])('%j: %s', (until, expected, more) => {
    expect(due(until, more)).toBe(expected);
  });
});

it('moves come back from the facts of a change, and what nobody can read is left out', () => {
  const moves = [
    { mod: asMod('tow'), name: 'Tow', from: '1', to: '2' },
    { mod: asMod('fog'), name: 'Fog', from: undefined, to: '1' },
    { mod: asMod('old'), name: 'Old', from: '3', to: undefined },
  ];
  const others = { build: '3', 'mod:a': 'no JSON', 'mod:b': '[1,2,3]', 'mod:c': '["x"]' };
  expect(movesOfFacts({ ...others, ...factsOfMoves(moves) })).toEqual(moves);
});
