import { expect, it } from 'vitest';
import { asMod, type ModId } from '#core/builds';
import { type Contest, orderMods, type StatedRule } from '#core/mods';
import { catalogueOf } from '../../../core/testing/mods';
import { circleWords, keptBackBy, sharedWith, standings } from './order-words';

const ids = (...names: string[]): ModId[] => names.map(asMod);
const [fig, plum, vine] = ids('fig', 'plum', 'vine') as [ModId, ModId, ModId];
const NAMES = new Map([
  ['fig', 'Fig'],
  ['vine', 'Vine'],
]);
const catalogue = catalogueOf({
  fig: [{ version: '1' }],
  plum: [{ version: '1' }],
  vine: [{ version: '1', requires: [{ mod: 'fig' }] }],
});
const releases = new Map(ids('fig', 'plum', 'vine').map((id) => [id, '1']));
const settled = (wished: readonly ModId[], rules: readonly StatedRule[] = []) =>
  orderMods(catalogue, releases, wished, rules);

it('what keeps a mod where it is says so, by need, by rule, and by whom', () => {
  const told = (wished: readonly ModId[], rules: readonly StatedRule[] = []) =>
    keptBackBy(wished, settled(wished, rules), NAMES);
  expect(told([fig, vine, plum])).toBeUndefined();
  expect(told([vine, fig, plum])).toBe('Vine needs Fig before it.');
  const rule = { mod: plum, goes: 'before', other: fig } as const;
  expect(told([fig, plum, vine], [{ rule }])).toBe('you say plum before Fig.');
  expect(told([fig, plum, vine], [{ rule, by: vine }])).toBe('Vine says plum before Fig.');
  expect(told([vine, fig, plum], [{ rule }])).toBe('Vine needs Fig before it, and you say plum before Fig.');
  expect(told([fig, vine, plum], [{ rule: { mod: plum, goes: 'first' } }])).toBe('A rule wants mods first or last.');
});

it('a rule that cannot be kept is told with what comes between', () => {
  const { broken } = settled(ids('fig', 'plum', 'vine'), [
    { rule: { mod: plum, goes: 'after', other: vine } },
    { rule: { mod: plum, goes: 'before', other: fig } },
  ]);
  expect(circleWords(broken[0]!, NAMES)).toBe(
    'Fig comes before Vine comes before plum by what counts more, so it cannot be kept.',
  );
});

it('files of several mods are counted by who has them', () => {
  const contests: Contest[] = [
    { path: 'a', mods: [fig, plum], isVanilla: false },
    { path: 'b', mods: [vine, fig, plum], isVanilla: true },
    { path: 'c', mods: [vine], isVanilla: true },
  ];
  const order = [plum, fig, vine];
  expect(standings(contests, order)).toEqual(
    new Map([
      [fig, { has: 1, leaves: 1 }],
      [plum, { has: 0, leaves: 2 }],
      [vine, { has: 1, leaves: 0 }],
    ]),
  );
  expect(sharedWith(fig, contests, order)).toEqual(
    new Map([
      [plum, { files: 2, isLater: false }],
      [vine, { files: 1, isLater: true }],
    ]),
  );
});
