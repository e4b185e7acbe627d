import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type ListSyntax, ListSyntaxSchema, mergeModList, readModList, writeModList } from './index';

const SYNTAXES: Record<string, ListSyntax | undefined> = {
  plain: undefined,
  xml: {
    head: '<?xml version="1.0"?>\n<grafts>\n',
    on: '  <graft id="{mod}" grows="yes"/>',
    off: '  <graft id="{mod}" grows="no"/>',
    tail: '\n</grafts>\n',
  },
  json: { head: '[\n', on: '  "{mod}"', between: ',\n', tail: '\n]\n' },
  ini: { head: '[mods]\n', on: '{mod}=1', off: '{mod}=0' },
  marked: { on: '*{mod}', off: '{mod}' },
};

describe('a list of mods', () => {
  it('is read as it was written, in any syntax', () => {
    const ids = fc.uniqueArray(fc.stringMatching(/^[a-z0-9][a-z0-9-]{0,20}$/), { maxLength: 20 });
    fc.assert(
      fc.property(fc.constantFrom(...Object.values(SYNTAXES)), ids, (syntax, some) => {
        expect(readModList(writeModList(some, syntax), syntax)).toEqual(some);
        expect(readModList(writeModList(some, syntax).replaceAll('\n', '\r\n'), syntax)).toEqual(some);
      }),
    );
  });

  it('is that of a well-formed document', () => {
    expect(writeModList(['pear', 'plum'], SYNTAXES.xml)).toBe(
      '<?xml version="1.0"?>\n<grafts>\n  <graft id="pear" grows="yes"/>\n  <graft id="plum" grows="yes"/>\n</grafts>\n',
    );
    expect(JSON.parse(writeModList(['pear', 'plum'], SYNTAXES.json))).toEqual(['pear', 'plum']);
    expect(writeModList([], SYNTAXES.plain)).toBe('');
  });

  it('leaves out what is off, and what is no entry', () => {
    expect(readModList('[mods]\n; pear=1 once\npear=1\nplum=0\n\nfig = 1\n', SYNTAXES.ini)).toEqual(['pear']);
    expect(readModList('*pear\nplum\n# note\n', SYNTAXES.marked)).toEqual(['pear']);
  });

  it.each([{ on: 'no place' }, { on: '{mod}{mod}' }, { on: '{mod}\n' }, { on: '{mod}', between: ', ' }, {}])(
    'is not told by %o',
    (syntax) => expect(ListSyntaxSchema.safeParse(syntax).success).toBe(false),
  );
});

describe('a list of mods is changed line by line', () => {
  const isKnown = (id: string): boolean => !id.startsWith('x');

  it('keeps comments, strangers, what is off, and the ends of lines', () => {
    const text = '; mine\r\n[mods]\r\npear=1\r\n; the stranger\r\nxeno=1\r\nplum=1\r\nfig=0\r\n';
    const merged = mergeModList(text, ['plum', 'quince', 'pear'], isKnown, SYNTAXES.ini);
    expect(merged).toBe('; mine\r\n[mods]\r\n; the stranger\r\nxeno=1\r\nplum=1\r\nquince=1\r\npear=1\r\nfig=0\r\n');
    expect(mergeModList(text, ['pear'], isKnown, SYNTAXES.ini)).toBe(text.replace('plum=1\r\n', ''));
    expect(mergeModList(text, ['pear', 'fig'], isKnown, SYNTAXES.ini)).not.toContain('fig=0');
  });

  it('puts entries where they belong in a list that has none', () => {
    const xml = '<?xml version="1.0" encoding="utf-8"?>\n<!-- none yet -->\n<grafts>\n</grafts>';
    expect(mergeModList(xml, ['pear'], isKnown, SYNTAXES.xml)).toBe(
      xml.replace('<grafts>\n', '<grafts>\n  <graft id="pear" grows="yes"/>\n'),
    );
    expect(JSON.parse(mergeModList('[\n]\n', ['pear', 'plum'], isKnown, SYNTAXES.json))).toEqual(['pear', 'plum']);
    expect(mergeModList('', ['pear'], isKnown, SYNTAXES.ini)).toBe('[mods]\npear=1\n');
    expect(mergeModList('no list at all', ['pear'], isKnown, SYNTAXES.json)).toBe('[\n  "pear"\n]\n');
  });

  it('separates entries as the syntax has it, whichever is the last', () => {
    const text = '[\n  "pear",\n  "xeno",\n  "plum"\n]\n';
    for (const wanted of [['plum', 'pear'], ['pear'], [], ['fig', 'plum', 'pear', 'quince']])
      expect(JSON.parse(mergeModList(text, wanted, isKnown, SYNTAXES.json))).toEqual(
        expect.arrayContaining([...wanted, 'xeno']),
      );
  });

  it('has the wanted mods in their order, all strangers in theirs, and is the same when it is done again', () => {
    const id = fc.stringMatching(/^[a-z][a-z0-9-]{0,3}$/);
    const ids = fc.uniqueArray(id, { maxLength: 14 });
    fc.assert(
      fc.property(
        fc.constantFrom(...Object.values(SYNTAXES)),
        fc.array(id, { maxLength: 14 }),
        ids,
        (syntax, had, wish) => {
          const wanted = wish.filter(isKnown);
          const text = writeModList(had, syntax);
          const merged = mergeModList(text, wanted, isKnown, syntax);
          const on = readModList(merged, syntax);
          expect(on.filter(isKnown)).toEqual(wanted);
          expect(on.filter((one) => !isKnown(one))).toEqual(had.filter((one) => !isKnown(one)));
          expect(mergeModList(merged, wanted, isKnown, syntax)).toBe(merged);
          const mine = [...new Set(had.filter(isKnown))];
          if (mine.length === had.filter(isKnown).length) expect(mergeModList(text, mine, isKnown, syntax)).toBe(text);
        },
      ),
    );
  });
});
