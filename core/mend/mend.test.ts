import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asMod, type ModId } from '#core/builds';
import { chooseAll } from '#core/choose';
import { contentKey } from '#core/digest';
import { modById, type Weight } from '#core/mods';
import { compareTree } from '#core/survey';
import { builds, catalogueOf } from '../testing/mods';
import { treeArbitrary } from '../testing/trees';
import {
  assess,
  type AssessInput,
  type EvidenceLevel,
  mendSteps,
  patchImpact,
  strengthOf,
  type Verdict,
  withInferred,
} from './index';

const key = (letter: string) => contentKey(1, [letter.repeat(64)]);
const file = (path: string, letter: string) => ({ path, size: 1, key: key(letter) });

it('a patch tells changed, new, gone and moved files apart', () => {
  const { changes, touched } = patchImpact(
    [file('same', 'a'), file('changed', 'b'), file('gone', 'c'), file('old', 'd')],
    [file('same', 'a'), file('changed', 'e'), file('fresh', 'f'), file('renamed', 'd')],
  );
  expect(changes.map(({ path, change }) => `${path} ${change}`)).toEqual([
    'changed changed',
    'fresh new',
    'gone gone',
    'old moved',
  ]);
  expect([...touched].sort()).toEqual(['changed', 'fresh', 'gone', 'old', 'renamed']);
});

it('a patch touches just the paths that are not equal before and after', () => {
  fc.assert(
    fc.property(treeArbitrary, treeArbitrary, (before, after) => {
      const rows = compareTree(before, after).filter(({ state }) => state !== 'true');
      expect([...patchImpact(before, after).touched].sort()).toEqual(rows.map(({ path }) => path));
    }),
  );
});

const catalogue = catalogueOf(
  {
    menu: [{ version: '1', builds: ['1'], requires: [{ mod: 'loader' }] }],
    loader: [
      { version: '1', builds: ['1'], touches: ['program'] },
      { version: '2', builds: ['2'], touches: ['program'] },
    ],
    paint: [{ version: '1', builds: ['1'], touches: ['texture'] }],
    table: [{ version: '1', builds: ['1'], touches: ['table'] }],
    named: [{ version: '1', builds: ['1'], brokenOn: ['2'] }],
    tied: [{ version: '1', builds: ['1'], requires: [{ mod: 'loader', to: '1' }] }],
  },
  { loader: 'loader' },
);
const impact = patchImpact(
  [file('program', 'a'), file('table', 'b'), file('texture', 'c')],
  [file('program', 'd'), file('table', 'e'), file('texture', 'c')],
);
const input: AssessInput = {
  catalogue,
  build: asBuild('2'),
  builds: builds('1', '2'),
  trials: [],
  impactSince: () => impact,
};
const newest = (id: string) => modById(catalogue, id)!;
const verdict = (id: string, more: Partial<AssessInput> = {}) =>
  assess(newest(id).releases.at(-1)!, { ...input, ...more }).verdict;

describe('what somebody said elsewhere', () => {
  const said = (runs: boolean, at: number, mod = 'table') => ({
    ...{ id: String(at), mod: asMod(mod), release: '1', build: asBuild('2'), runs, text: 'it does', at },
  });

  it('counts as likely or in doubt by what was written down last, below the author and what was tried', () => {
    expect(verdict('table', { said: [said(true, 1)] })).toBe('likely');
    expect(verdict('table', { said: [said(false, 2), said(true, 1)] })).toBe('in doubt');
    expect(verdict('paint', { said: [said(false, 1, 'paint')] })).toBe('in doubt');
    expect(verdict('named', { said: [said(true, 1, 'named')] })).toBe('broken');
    const trials = [{ build: asBuild('2'), mod: asMod('table'), release: '1', ran: true, at: 0 }];
    expect(verdict('table', { said: [said(false, 1)], trials })).toBe('proven');
  });

  it('is a reason with its text, and says nothing of another build', () => {
    const elsewhere = { ...said(true, 1), build: asBuild('1') };
    const { reasons } = assess(newest('table').releases.at(-1)!, { ...input, said: [said(false, 2), elsewhere] });
    expect(reasons.filter(({ kind }) => kind === 'said')).toEqual([
      { kind: 'said', runs: false, text: 'it does', at: 2 },
    ]);
  });
});

describe('a verdict', () => {
  it.each([
    ['loader', 'stated'],
    ['menu', 'likely'],
    ['paint', 'likely'],
    ['table', 'in doubt'],
    ['named', 'broken'],
    ['tied', 'stuck'],
  ])('of %s is %s', (id, expected) => {
    expect(verdict(id)).toBe(expected);
  });

  it('goes by the latest trial before anything else', () => {
    const trial = (ran: boolean, at: number) => ({ build: input.build, mod: asMod('table'), release: '1', ran, at });
    expect(verdict('table', { trials: [trial(false, 1), trial(true, 2)] })).toBe('proven');
    expect(verdict('paint', { trials: [{ ...trial(false, 1), mod: asMod('paint') }] })).toBe('broken');
  });

  it.each([
    [3, 0, 'in doubt'],
    [180, 10, 'likely'],
    [2, 30, 'in doubt'],
  ])('of one with %i reports for and %i against is %s', (ran, against, expected) => {
    const reports = [{ build: input.build, for: ran, against }];
    const reported = catalogueOf({ table: [{ version: '1', builds: ['1'], touches: ['table'], reports }] });
    const { verdict, reasons } = assess(reported.mods[0]!.releases[0]!, { ...input, catalogue: reported });
    expect(verdict).toBe(expected);
    expect(reasons).toContainEqual(expect.objectContaining({ kind: 'reports', for: ran, against }));
  });

  it('of many reports against outweighs that nothing changed, but not the author', () => {
    const reports = [{ build: input.build, for: 1, against: 40 }];
    const release = { version: '1', builds: ['1'], touches: ['texture'], reports };
    const of = (sketch: typeof release) => {
      const reported = catalogueOf({ paint: [sketch] });
      return assess(reported.mods[0]!.releases[0]!, { ...input, catalogue: reported }).verdict;
    };
    expect(of(release)).toBe('in doubt');
    expect(of({ ...release, builds: ['1', '2'] })).toBe('stated');
  });

  it('lets count what is as strong as one wants', () => {
    const supported = (level: EvidenceLevel): string[] =>
      withInferred(input, level)
        .mods.filter(({ releases }) => releases.some((release) => release.builds.includes(input.build)))
        .map(({ id }) => id);
    expect(supported('stated')).toEqual(['loader']);
    // What is tied to a loader that is not there counts by itself; that it cannot run is for the choosing to find out.
    expect(supported('likely')).toEqual(['menu', 'loader', 'paint', 'tied']);
    expect(supported('in doubt')).toEqual(['menu', 'loader', 'paint', 'table', 'tied']);
    expect(['proven', 'in doubt', 'stuck'].map((verdict) => strengthOf(verdict as Verdict))).toEqual([4, 1, 0]);
  });

  it('names the files that the patch touched', () => {
    const { reasons } = assess(newest('table').releases[0]!, input);
    expect(reasons).toContainEqual({ kind: 'touched', since: '1', paths: ['table'] });
  });

  it('is not made of files that nobody knows', () => {
    const own = catalogueOf({ own: [{ version: '1', builds: ['1'], touches: undefined }] });
    const { verdict, reasons } = assess(own.mods[0]!.releases[0]!, { ...input, catalogue: own });
    expect(verdict).toBe('in doubt');
    expect(reasons).toContainEqual({ kind: 'touches-unknown', since: '1' });
  });
});

it('mending goes loader first, then requirements, and the bench last', () => {
  const ids = catalogue.mods.map(({ id }) => id);
  const weights = new Map<ModId, Weight>(ids.map((id) => [id, 'want']));
  const installed = new Map(ids.map((id) => [id, '1']));
  const [choice] = chooseAll([input.build], withInferred(input), weights, installed);
  const steps = mendSteps(choice!, installed, input);
  expect(steps[0]).toMatchObject({ mod: 'loader', from: '1', to: '2', action: 'update' });
  expect(steps.map(({ mod, action }) => `${mod} ${action}`)).toEqual([
    'loader update',
    'menu keep',
    'paint keep',
    'table bench',
    'named bench',
    'tied bench',
  ]);
});
