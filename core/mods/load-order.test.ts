import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asMod, type ModId } from '#core/builds';
import { catalogueOf } from '../testing/mods';
import { type Contest, loadOrder, movedTo, type OrderRule, orderMods, statedRules, takenOver, winnerOf } from './index';

const ids = (...names: string[]): ModId[] => names.map(asMod);
const all = (...names: string[]): Map<ModId, string> => new Map(names.map((id) => [asMod(id), '1']));
const simple = (...names: string[]) => catalogueOf(Object.fromEntries(names.map((id) => [id, [{ version: '1' }]])));
const before = (mod: string, other: string): OrderRule => ({ mod: asMod(mod), goes: 'before', other: asMod(other) });

it('the load order puts requirements first, whatever the catalogue’s order', () => {
  const catalogue = catalogueOf({
    top: [{ version: '1', requires: [{ mod: 'middle' }] }],
    middle: [{ version: '1', requires: [{ mod: 'base' }, { mod: 'not-chosen' }] }],
    base: [{ version: '1', requires: [{ mod: 'top' }] }],
    'not-chosen': [{ version: '1' }],
  });
  const releases = new Map(['top', 'middle', 'base'].map((id) => [asMod(id), '1']));
  expect(loadOrder(catalogue, releases)).toEqual(['base', 'middle', 'top']);
});

describe('rules of order', () => {
  const catalogue = simple('a', 'b', 'c', 'd');
  const releases = all('a', 'b', 'c', 'd');
  const orderBy = (rules: readonly OrderRule[], given = ids('a', 'b', 'c', 'd')) =>
    orderMods(
      catalogue,
      releases,
      given,
      rules.map((rule) => ({ rule })),
    );

  it('move up what has to come earlier, and nothing else', () => {
    expect(orderBy([before('d', 'b')]).order).toEqual(['a', 'd', 'b', 'c']);
    expect(orderBy([{ mod: asMod('a'), goes: 'after', other: asMod('c') }]).order).toEqual(['c', 'a', 'b', 'd']);
    expect(
      orderBy([
        { mod: asMod('c'), goes: 'first' },
        { mod: asMod('a'), goes: 'last' },
      ]).order,
    ).toEqual(ids('c', 'b', 'd', 'a'));
  });

  it('that go round in a circle are named with it, and what counts less is left out', () => {
    const { order, broken } = orderBy([before('a', 'b'), before('b', 'c'), before('c', 'a')]);
    expect(order).toEqual(['a', 'b', 'c', 'd']);
    expect(broken).toEqual([{ rule: before('c', 'a'), circle: ['c', 'b', 'a'] }]);
  });

  it('of a person count more than those of the catalogue, and a requirement more than both', () => {
    const needing = catalogueOf({
      a: [{ version: '1', requires: [{ mod: 'b' }] }],
      b: [{ version: '1' }],
      c: [{ version: '1' }],
    });
    const said = {
      ...needing,
      mods: needing.mods.map((mod) =>
        mod.id === 'c' ? { ...mod, order: [before('c', 'b'), before('a', 'gone')] } : mod,
      ),
    };
    const rules = statedRules(said, all('a', 'b', 'c'), [before('b', 'c'), before('a', 'b')]);
    expect(rules.map(({ by }) => by)).toEqual([undefined, undefined, 'c']);
    const { order, broken } = orderMods(said, all('a', 'b', 'c'), ids('c', 'a', 'b'), rules);
    expect(order).toEqual(['b', 'c', 'a']);
    expect(broken).toEqual([
      { rule: before('a', 'b'), circle: ['a', 'b'] },
      { rule: before('c', 'b'), by: 'c', circle: ['c', 'b'] },
    ]);
  });

  it('are kept by any order, each mod once, save the ones that are named as broken', () => {
    const names = ['a', 'b', 'c', 'd', 'e', 'f'];
    const name = fc.constantFrom(...names);
    const rule = fc
      .tuple(name, name)
      .filter(([one, other]) => one !== other)
      .map(([one, other]) => before(one, other));
    const given = fc.shuffledSubarray(ids(...names));
    fc.assert(
      fc.property(fc.array(rule, { maxLength: 12 }), given, (rules, some) => {
        const { order, broken } = orderMods(
          simple(...names),
          all(...names),
          some,
          rules.map((one) => ({ rule: one })),
        );
        expect(order.toSorted()).toEqual(names);
        const left = new Set(broken.map((one) => one.rule));
        for (const one of rules)
          if (!left.has(one) && 'other' in one) expect(order.indexOf(one.mod)).toBeLessThan(order.indexOf(one.other));
        expect(
          orderMods(
            simple(...names),
            all(...names),
            order,
            rules.map((one) => ({ rule: one })),
          ).order,
        ).toEqual(order);
      }),
    );
  });

  it('is told for a chain of thousands of requirements', () => {
    const chain = Array.from({ length: 3_000 }, (_, i) => `m${i}`);
    const long = catalogueOf(
      Object.fromEntries(
        chain.map((id, i) => [id, [{ version: '1', requires: i > 0 ? [{ mod: chain[i - 1]! }] : [] }]]),
      ),
    );
    expect(loadOrder(long, all(...chain), ids(...chain.toReversed()))).toEqual(chain);
  });
});

describe('an order that was changed outside', () => {
  it('is taken over, and what is not listed stays behind the mod that it stood behind', () => {
    expect(takenOver(ids('a', 'b', 'c', 'd', 'e'), ids('d', 'x', 'b'))).toEqual(['a', 'd', 'e', 'b', 'c']);
    const order = ids('a', 'b', 'c');
    expect(takenOver(order, ids('a', 'c'))).toBe(order);
    expect(takenOver(order, [])).toBe(order);
  });

  it('keeps every mod, once', () => {
    const some = fc.shuffledSubarray(ids('a', 'b', 'c', 'd', 'e', 'f', 'g'));
    fc.assert(
      fc.property(some, some, (order, listed) => {
        const taken = takenOver(order, listed);
        expect(taken.toSorted()).toEqual(order.toSorted());
        const here = listed.filter((id) => order.includes(id));
        expect(taken.filter((id) => here.includes(id))).toEqual(here);
      }),
    );
  });
});

it('the mod that is loaded last has a file that several bring', () => {
  const contest: Contest = { path: 'x', mods: ids('a', 'b'), isVanilla: false };
  const order = ids('a', 'c', 'b');
  expect(winnerOf(contest, order)).toBe('b');
  expect(winnerOf(contest, movedTo(order, asMod('b'), 0))).toBe('a');
});
