import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type ListSyntax, ListSyntaxSchema, readModList, writeModList } from '.';

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

  it.each([{ on: 'no place' }, { on: '{mod}{mod}' }, { on: '{mod}\n' }, {}])('is not told by %o', (syntax) =>
    expect(ListSyntaxSchema.safeParse(syntax).success).toBe(false),
  );
});
