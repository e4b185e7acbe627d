import { describe, expect, it } from 'vitest';
import {
  addOnRefused,
  asBuild,
  asDepot,
  buildOfSave,
  buildOrder,
  countingDepots,
  DepotIdSchema,
  DepotIndexSchema,
  isPreset,
  newestBuild,
  ownRule,
  tellsBuild,
} from './index';

const depot = (id: string, kind: string, order: number, language?: string) => ({
  id,
  title: id,
  kind,
  order,
  orderMatters: false,
  language,
});
const INDEX = DepotIndexSchema.parse({
  format: 'regressum-depot-index',
  version: 1,
  game: {
    id: 'g',
    title: 'G',
    rules: { program: 'p', loader: 'l', modsFolder: 'm', loadOrder: 'o', own: [] },
  },
  builds: [
    { label: '1.9', date: '2026-01-01' },
    { label: '1.10', date: '2026-02-01' },
  ],
  branches: [{ name: 'main', build: '1.10', needsCode: false }],
  depots: [
    depot('extra', 'optional', 5),
    depot('island', 'add-on', 4),
    depot('north', 'language', 3, 'north'),
    depot('south', 'language', 3, 'south'),
    depot('program', 'program', 2),
    depot('core', 'core', 1),
  ],
  manifests: [],
});

describe('the depots that count', () => {
  const of = (ownership: { language: string; addOns?: string[]; optional?: string[] }) =>
    countingDepots(INDEX, {
      language: ownership.language,
      addOns: (ownership.addOns ?? []).map(asDepot),
      optional: (ownership.optional ?? []).map(asDepot),
    }).map(({ id }) => id);

  it('stand in laying order, with one language', () => {
    expect(of({ language: 'south' })).toEqual(['core', 'program', 'south']);
  });

  it('are more for somebody who has more', () => {
    expect(of({ language: 'north', addOns: ['island'], optional: ['extra'] })).toEqual([
      'core',
      'program',
      'north',
      'island',
      'extra',
    ]);
  });
});

it('an add-on is refused to those who do not own it, and nothing else is', () => {
  const [extra, island] = INDEX.depots;
  expect(addOnRefused(island!, [])).toBe(true);
  expect(addOnRefused(island!, ['island'])).toBe(false);
  expect(addOnRefused(extra!, [])).toBe(false);
});

it('builds are ordered as the index has them, not by their labels', () => {
  expect(buildOrder(INDEX, asBuild('1.9'))).toBeLessThan(buildOrder(INDEX, asBuild('1.10')));
  expect(buildOrder(INDEX, asBuild('2'))).toBe(-1);
  expect(newestBuild(INDEX, 'main')).toBe('1.10');
  expect(newestBuild(INDEX, 'nowhere')).toBeUndefined();
});

it('ids that could climb out of a folder are no ids', () => {
  for (const id of ['../a', 'A', 'a b', '']) {
    expect(DepotIdSchema.safeParse(id).success, id).toBe(false);
  }
});

describe('a save', () => {
  const rules = {
    ...{ program: 'p', loader: 'l', modsFolder: 'mods', loadOrder: 'mods/o' },
    own: [
      { folder: 'saves', kind: 'saves' as const, buildAfter: 'SAVE ' },
      { folder: 'other', kind: 'saves' as const },
    ],
  };
  it.each([
    ['saves/a', 'GAME SAVE 2.9.4\nmore', '2.9.4'],
    ['saves/a', 'SAVE 3.0.0-t1\u0000\u0000', '3.0.0-t1'],
    ['saves/a', 'SAVE 2.9.4', '2.9.4'],
    ['saves/a', '{"v":"SAVE 2.9.4","x":1}', '2.9.4'],
    ['saves/a', 'SAVE \n', undefined],
    ['saves/a', `SAVE ${'9'.repeat(100)}`, undefined],
    ['saves/a', 'nothing of it', undefined],
    ['other/a', 'SAVE 2.9.4', undefined],
    ['mods/a', 'SAVE 2.9.4', undefined],
  ])('%s that begins with %j was written by %s', (path, head, build) => {
    expect(buildOfSave(rules, path, head)).toBe(build);
    if (build !== undefined) expect(tellsBuild(rules, path)).toBe(true);
  });
});

it('a file of the player’s comes under the rule that says most closely where it is, whatever their order', () => {
  const own = [
    { folder: 'player', kind: 'settings' as const },
    { folder: 'player/liveries', kind: 'content' as const },
    { folder: 'mods/**/*.ini', kind: 'presets' as const },
    { folder: '**/*.ini', kind: 'settings' as const },
  ];
  for (const rules of [{ own }, { own: own.toReversed() }]) {
    expect(ownRule(rules, 'player/liveries/a')?.kind).toBe('content');
    expect(ownRule(rules, 'player/a.ini')?.kind).toBe('settings');
    expect([ownRule(rules, 'mods/a/b.ini')?.kind, isPreset(rules, 'mods/a/b.ini')]).toEqual(['presets', true]);
    expect(ownRule(rules, 'mods/a/b.txt')).toBeUndefined();
  }
});
