import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { asBuild, DepotIndexSchema } from '#core/builds';
import { contentKey } from '#core/digest';
import { catalogueOf } from '../testing/mods';
import { jsonSchemas } from '../../scripts/schemas';
import { drift, type HoldSheet, parseHoldSheet, writeHoldSheet } from './index';

const RULES = {
  program: 'p',
  loader: 'l',
  modsFolder: 'mods',
  loadOrder: 'mods/list',
  own: [{ folder: 'saves', kind: 'saves' as const }],
};
const HASH = 'a'.repeat(64);
const index = DepotIndexSchema.parse({
  format: 'regressum-depot-index',
  version: 1,
  game: { id: 'ferrywake', title: 'Ferrywake', rules: RULES },
  builds: [{ label: '2.9.4', date: '2025-11-30' }],
  branches: [],
  depots: [],
  manifests: [],
});
const catalogue = catalogueOf({ towline: [{ version: '1.14' }] });
const sheet: HoldSheet = {
  format: 'regressum-hold-sheet',
  version: 1,
  heldAt: '2026-11-23T00:00:00.000Z',
  game: { id: 'ferrywake', title: 'Ferrywake' },
  build: asBuild('2.9.4'),
  ownership: { language: 'en', addOns: [], optional: [] },
  depots: [],
  treeDigest: HASH,
  files: 1,
  bytes: 1,
  releases: [{ mod: catalogue.mods[0]!.id, name: 'Towline', release: '1.14', files: 1 }],
  loadOrder: [catalogue.mods[0]!.id],
  weights: { [catalogue.mods[0]!.id]: 'must' },
  means: ['update-setting'],
};
const text = writeHoldSheet(sheet);
const refused = (changed: string): unknown => {
  try {
    return parseHoldSheet(changed, 's.json', index, catalogue);
  } catch (error) {
    return error;
  }
};

describe('a hold sheet', () => {
  it('is read back as it was written', () => {
    expect(parseHoldSheet(text, 's.json', index, catalogue)).toEqual(sheet);
  });

  it.each([
    ['not JSON', text.replace('{', '{{'), { code: 'json/malformed', facts: { file: 's.json', line: 1 } }],
    ['a later version', text.replace('"version": 1', '"version": 2'), { code: 'hold-sheet/unknown-version' }],
    [
      'a short digest',
      text.replace(HASH, 'abc'),
      { code: 'json/does-not-fit', facts: { field: 'treeDigest', line: 16 } },
    ],
    ['a field too many', text.replace('"files": 1', '"more": 1,\n  "files": 1'), { code: 'json/does-not-fit' }],
    ['an unknown build', text.replace('"2.9.4"', '"9.9.9"'), { code: 'hold-sheet/unknown-build' }],
    ['an unknown release', text.replace('"1.14"', '"7.7"'), { code: 'hold-sheet/unknown-mod' }],
  ])('with %s is refused, and the place named', (_what, changed, expected) => {
    expect(refused(changed)).toMatchObject(expected);
  });
});

it('drift is every departure but the player’s own files', () => {
  const file = (path: string, letter: string) => ({ path, size: 1, key: contentKey(1, [letter.repeat(64)]) });
  const held = [file('a', 'a'), file('b', 'b'), file('c', 'c')];
  const found = [file('a', 'a'), file('b', 'x'), file('new', 'n'), file('saves/1', 's')];
  expect(drift(held, found, RULES).map(({ path, state }) => `${path} ${state}`)).toEqual([
    'b altered',
    'c absent',
    'new stray',
  ]);
});

it('the schemas in docs are what the program reads by', () => {
  for (const [name, schema] of Object.entries(jsonSchemas())) {
    expect(readFileSync(new URL(`../../docs/schemas/${name}`, import.meta.url), 'utf8')).toBe(schema);
  }
});
