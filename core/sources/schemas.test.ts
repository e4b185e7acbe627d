import { readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { describe, expect, it } from 'vitest';
import { digest, sha256 } from '../testing/digest';
import { gameFile, makeSource } from '.';

/* What is written holds by the schemas that are handed out, as somebody else's validator reads them. */

const validator = (name: string) =>
  new Ajv2020({ strict: false, validateFormats: false }).compile(
    JSON.parse(readFileSync(`docs/schemas/${name}.schema.json`, 'utf8')) as object,
  );
const RULES = {
  program: 'orchard.prog',
  own: [{ folder: 'profile/**/*.sav', kind: 'saves' as const }],
  loadOrder: 'list.xml',
  listSyntax: { on: '<mod id="{mod}"/>', head: '<mods>\n', tail: '\n</mods>\n' },
  fetchLine: 'get {depot} {manifest}',
  versions: [{ file: 'version.txt', pattern: '^build (.*)$' }],
  log: { file: 'last.log', up: 'menu ready' },
  record: { file: 'state.xml', form: 'xml' as const, at: 'a/@b', stops: 'never', goes: 'always' },
};
const GAME = { id: 'orchard', title: 'Orchard', rules: RULES };

describe('by the schemas that are handed out', () => {
  it('a game’s file is one', () => {
    const isGame = validator('game');
    const file = gameFile(GAME, [{ of: 'builds', href: 'https://example.invalid/index.json' }]);
    expect([isGame(JSON.parse(JSON.stringify(file))), isGame.errors]).toEqual([true, null]);
    expect(isGame({ ...file, title: '' })).toBe(false);
  });

  it('an index that is made is one', async () => {
    const isIndex = validator('depot-index');
    const files = [{ path: 'a', size: 3, sha256: digest('one'), pieces: [digest('one')] }];
    const build = { label: '1.0', date: '2026-01-31' };
    const { index } = await makeSource(undefined, GAME, build, [{ id: 'core', kind: 'core', files }], {
      ...{ sha256, has: 'files' },
    });
    expect([isIndex(JSON.parse(JSON.stringify(index))), isIndex.errors]).toEqual([true, null]);
    expect(isIndex({ ...index, builds: [{ label: '' }] })).toBe(false);
  });
});
