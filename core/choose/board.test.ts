import { describe, expect, it } from 'vitest';
import { asBuild, asMod, DepotIndexSchema, type ModId } from '#core/builds';
import type { Weight } from '#core/mods';
import { builds, catalogueOf } from '../testing/mods';
import { choiceDifferences, changesOf, chooseAll, decisionFor, DecisionSchema, rankChoices } from './index';

const BUILDS = builds('1', '2', '3', '4');
const catalogue = catalogueOf({
  old: [{ version: '1', builds: ['1', '2'] }],
  new: [
    { version: '1', builds: ['1'] },
    { version: '2', builds: ['2', '3', '4'] },
  ],
});
const weights = new Map<ModId, Weight>([
  [asMod('old'), 'must'],
  [asMod('new'), 'want'],
]);
const index = (locked: string[]) =>
  DepotIndexSchema.parse({
    format: 'regressum-depot-index',
    version: 1,
    game: { id: 'g', title: 'G', rules: { program: 'p', loader: 'l', modsFolder: 'm', loadOrder: 'o', own: [] } },
    builds: BUILDS.map((label) => ({ label, date: '2026-01-01' })),
    branches: locked.map((build) => ({ name: `behind ${build}`, build, needsCode: true })),
    depots: [],
    manifests: [],
  });

describe('the board', () => {
  const installed = new Map([[asMod('new'), '2']]);
  const choices = chooseAll(BUILDS, catalogue, weights, installed);

  it('counts what runs, and the must-haves among what is lost', () => {
    expect(choices.map(({ running, mustLost }) => [running, mustLost])).toEqual([
      [2, 0],
      [2, 0],
      [1, 1],
      [1, 1],
    ]);
  });

  it('tells what goes back from what comes in anew', () => {
    const [first, second] = choices;
    expect(changesOf(first!, installed, catalogue).back).toEqual([{ mod: 'new', from: '2', to: '1' }]);
    const { back, forward } = changesOf(second!, installed, catalogue);
    expect(back).toEqual([]);
    expect(forward).toEqual([{ mod: 'old', from: undefined, to: '1' }]);
  });

  it('names the newest build that had a release of what is lost', () => {
    expect(choices[3]!.lost.get(asMod('old'))).toEqual({ why: 'no-release', newestWith: '2' });
  });

  it('ranks builds by value, of equal ones the newest first, without those behind a code', () => {
    expect(rankChoices(choices, index([])).map(({ build }) => build)).toEqual(['2', '1', '4', '3']);
    expect(rankChoices(choices, index(['2']))[0]?.build).toBe(asBuild('1'));
    expect(rankChoices([], index([]))).toEqual([]);
  });

  it('tells two builds apart mod by mod', () => {
    const [first, second, third] = choices;
    expect(choiceDifferences(first!, second!)).toEqual([{ mod: 'new', here: '1', there: '2' }]);
    expect(choiceDifferences(second!, third!)).toEqual([{ mod: 'old', here: '1', there: undefined }]);
    expect(choiceDifferences(first!, first!)).toEqual([]);
  });

  it('keeps the reasons of a decision, which its schema reads again', () => {
    const [first, , third] = choices;
    const rolledBack = changesOf(third!, installed, catalogue).back;
    const decision = decisionFor(third!, { ranked: rankChoices(choices, index([])), rolledBack }, weights, 'stated', 0);
    expect(DecisionSchema.parse(JSON.parse(JSON.stringify(decision)))).toEqual(decision);
    expect(decision).toMatchObject({ running: 1, wanted: 2, runnerUp: { build: '2', running: 2 } });
    expect(decision.lost).toEqual([{ mod: 'old', weight: 'must', why: 'no-release' }]);
    expect(
      decisionFor(
        first!,
        { ranked: [first!], rolledBack: changesOf(first!, installed, catalogue).back },
        weights,
        'likely',
        0,
      ),
    ).toMatchObject({
      at: '1970-01-01T00:00:00.000Z',
      rolledBack: [{ mod: 'new', from: '2', to: '1' }],
    });
  });

  it('goes by what counts at each build', () => {
    const wider = catalogueOf({ old: [{ version: '1', builds: ['1', '2', '4'] }] });
    const only = new Map<ModId, Weight>([[asMod('old'), 'must']]);
    const catalogueAt = (build: string) => (build === '4' ? wider : catalogue);
    expect(chooseAll(BUILDS, catalogue, only, new Map(), { catalogueAt }).map(({ running }) => running)).toEqual([
      1, 1, 0, 1,
    ]);
  });
});
