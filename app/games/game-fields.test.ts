import { describe, expect, it } from 'vitest';
import { GameRulesSchema } from '#core/builds';
import { FAULTS, type Fields, fieldsOf, gameOf, patternErrors } from './game-fields';

const GAME = {
  title: 'Glass Orchard',
  rules: GameRulesSchema.parse({
    program: 'orchard.prog',
    loader: 'loader.lib',
    modsFolder: 'grafts',
    loadOrder: 'grafts/list.xml',
    listSyntax: {
      on: '<graft id="{mod}" grows="yes"/>',
      off: '<graft id="{mod}" grows="no"/>',
      head: '<grafts>\n',
      tail: '\n</grafts>\n',
    },
    own: [
      { folder: 'profile/**/*.sav', kind: 'saves', buildAfter: 'SAVE ' },
      { folder: 'user.cfg', kind: 'settings' },
    ],
    layout: [
      { files: '*.pak', folder: 'data/paks' },
      { files: 'mod.json', folder: 'grafts', ownFolder: true },
    ],
    fetchLine: 'get {depot} {manifest}',
    versions: [{ file: 'version.txt', pattern: '^build: (.*)$' }, { file: 'orchard.prog' }],
    log: { file: 'last.log', up: 'menu ready', failed: 'no (.*)' },
    record: { file: 'state.xml', form: 'xml', at: 'a/@b', stops: 'never', goes: 'always', build: 'a/@c' },
  }),
};
const EMPTY = { title: '', rules: { own: [] } };

describe('what one types of a game', () => {
  it('is what the game was where nothing is changed, with what the form does not show', () => {
    expect(gameOf(fieldsOf(GAME), GAME)).toEqual(GAME);
    expect(gameOf(fieldsOf(EMPTY), EMPTY)).toEqual(EMPTY);
  });

  it('takes a rule away with its field', () => {
    const typed = {
      ...fieldsOf(GAME),
      recordFile: ' ',
      logFile: '',
      versions: '\n',
      listOn: '',
      saves: '',
      fetchLine: '',
      layout: ' ',
    };
    const { loader, program, modsFolder, loadOrder, own } = GAME.rules;
    expect(gameOf(typed, GAME).rules).toEqual({ loader, program, modsFolder, loadOrder, own: own.slice(1) });
  });

  it.each<[keyof Fields, string, string | null]>([
    ['program', 'bin\\game.prog\\', null],
    ['program', '../game.prog', 'leads out of'],
    ['saves', 'profile/*.sav\nsaves', null],
    ['saves', '**/*', 'fits everything'],
    ['layout', '*.pak: data\\paks\\\nmod.json: mods, Own folder', null],
    ['layout', '*.pak: data\n*.tex', 'Line 2'],
    ['layout', 'a/b: data', 'is a pattern of a name'],
    ['fetchLine', 'get {depo}', 'has no field {depo}'],
    ['listOn', 'on', 'does not have {mod} in it'],
    ['recordGoes', 'never', 'the same as'],
  ])('%s: %s', (field, value, fault) => {
    const said = { ...fieldsOf(GAME), [field]: value };
    const found = FAULTS[field]!(value, said);
    if (fault === null) expect(found).toBeNull();
    else expect(found?.toLowerCase()).toContain(fault.toLowerCase());
  });

  it('says of patterns that are none at which field they stand', async () => {
    const typed = {
      ...fieldsOf(GAME),
      ...{ versions: 'a.txt: ^(.*)$\nb.txt: (', logFailed: 'no part', recordForm: 'text' as const, recordAt: 'x' },
    };
    expect(await patternErrors(gameOf(typed, GAME))).toMatchObject({
      versions: expect.stringContaining('Line 2 is no pattern'),
      logFailed: expect.stringContaining('one part in parentheses'),
      recordAt: expect.stringContaining('one part in parentheses'),
    });
    expect(await patternErrors(GAME)).toEqual({});
  });
});
