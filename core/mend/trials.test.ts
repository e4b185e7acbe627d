import { expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import { catalogueOf } from '../testing/mods';
import { trialsFrom, type TrialOutcome } from './index';

const catalogue = catalogueOf({
  host: [{ version: '1' }, { version: '2' }],
  guest: [{ version: '1', requires: [{ mod: 'host', from: '2' }] }],
  rival: [{ version: '1', conflicts: [{ mod: 'host' }] }],
});
const outcome = (mod: string, ran: boolean, more: Partial<TrialOutcome> = {}): TrialOutcome => ({
  ...{ mod, release: '1', ran },
  ...more,
});
const counted = (...outcomes: TrialOutcome[]): string[] =>
  trialsFrom(outcomes, { build: asBuild('3'), at: 1, catalogue }).map(({ mod, ran }) => `${mod} ${ran}`);

it('a mod that ran speaks for its release, whatever else failed', () => {
  expect(counted(outcome('guest', true), outcome('host', false))).toEqual(['guest true', 'host false']);
});

it.each([
  ['its requirement did not run', [outcome('host', false), outcome('guest', false)], ['host false']],
  ['its requirement ran in another release', [outcome('host', true), outcome('guest', false)], ['host true']],
  ['what it cannot run beside ran', [outcome('host', true), outcome('rival', false)], ['host true']],
  ['its files were incomplete', [outcome('host', false, { cause: 'files' })], []],
  ['it was not asked to load', [outcome('host', false, { cause: 'not-listed' })], []],
])('a mod that did not run is not to blame where %s', (_, outcomes, expected) => {
  expect(counted(...outcomes)).toEqual(expected);
});

it('a mod that did not run beside all that it needs is', () => {
  const right = outcome('host', true, { release: '2' });
  expect(counted(right, outcome('guest', false))).toEqual(['host true', 'guest false']);
  expect(counted(outcome('host', false, { cause: 'build' }))).toEqual(['host false']);
  expect(counted(outcome('unheard-of', false))).toEqual(['unheard-of false']);
});
