import { expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import type { Fact, Loss } from '#core/choose';
import { factWords } from './fact-words';
import { lossWords } from './loss-words';

const names = new Map([
  ['fuel', 'Honest fuel'],
  ['tow', 'Towline'],
]);
const [fuel, tow, fog] = ['fuel', 'tow', 'fog'].map(asMod) as [never, never, never];
const build = asBuild('3.1.1');
const old = asBuild('2.9.4');
const range = { mod: tow, from: '1.12', to: '1.14' };

it.each<[Fact, string]>([
  [{ kind: 'wanted', mod: fuel }, 'You must have Honest fuel.'],
  [{ kind: 'pinned', mod: fuel, release: '1.9' }, 'You pinned Honest fuel to 1.9.'],
  [{ kind: 'needs', mod: fuel, releases: ['1.9'], oneOf: [range] }, 'Honest fuel 1.9 needs Towline 1.12 to 1.14.'],
  [
    { kind: 'needs', mod: fuel, releases: ['1.8', '1.9'], oneOf: [range, { mod: fog, to: '2' }] },
    'Honest fuel 1.8, 1.9 needs Towline 1.12 to 1.14 or fog up to 2.',
  ],
  [
    { kind: 'conflict', mod: fuel, releases: ['1.9'], with: { mod: tow, from: '2' } },
    'Honest fuel 1.9 cannot run beside Towline 2 or newer.',
  ],
  [{ kind: 'only-here', mod: tow, releases: ['2.0'] }, 'The only release for 3.1.1 is Towline 2.0.'],
  [
    { kind: 'none-here', mod: tow, ranges: [range], newestWith: old },
    'No Towline 1.12 to 1.14 is for 3.1.1; the newest build with one is 2.9.4.',
  ],
  [{ kind: 'none-here', mod: fog, ranges: [], newestWith: undefined }, 'No release of fog is for 3.1.1.'],
])('the fact %j is said in words', (fact, words) => {
  expect(factWords(fact, build, names)).toBe(words);
});

it.each<[Loss, string]>([
  [{ why: 'no-release' }, 'has no release for 3.1.1'],
  [{ why: 'no-release', newestWith: old }, 'has no release for 3.1.1; the newest build with one is 2.9.4'],
  [
    { why: 'requirement', release: '1.9', needs: range, cause: { why: 'no-release', newestWith: old } },
    '1.9 needs Towline 1.12 to 1.14, and Towline has no release for 3.1.1; the newest build with one is 2.9.4',
  ],
  [
    { why: 'requirement', release: '1.9', needs: range, cause: undefined },
    '1.9 needs Towline 1.12 to 1.14, which does not run here',
  ],
  [{ why: 'pinned', release: '1.9' }, 'is pinned to 1.9, which does not run here'],
  [{ why: 'conflict', release: '1.9', with: fog }, '1.9 cannot run beside fog'],
  [{ why: 'outweighed' }, 'gives way to mods with more weight'],
])('the loss %j is said in words', (loss, words) => {
  expect(lossWords(loss, build, names)).toBe(words);
});
