import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { type RecordRule, RecordRuleSchema } from '#core/builds';
import { switchedTexts, readValue, writeValue } from '.';

const rule = (form: RecordRule['form'], at: string): RecordRule => ({
  file: 'store.cfg',
  form,
  at,
  stops: '1',
  goes: '0',
});

/** The same value at a place in each form, with things around it that are not to be touched. */
const RECORDS: readonly [RecordRule, (value: string) => string][] = [
  [
    rule('json', 'apps/1/auto~1update'),
    (v) => `{\r\n  // kept\n "apps": [0, {"auto/update" : ${JSON.stringify(v)} , "b": 1e3 },],\n}\n`,
  ],
  [rule('json', 'on'), (v) => `{"on": ${JSON.stringify(v)}}`],
  [
    rule('ini', 'Update/mode'),
    (v) => `mode=other\r\n[update]\r\n; mode=none\r\n  Mode = "${v}"\r\nlast=1\r\n[more]\nmode=x\n`,
  ],
  [rule('ini', 'mode'), (v) => `mode=${v}\n[update]\nmode=other`],
  [
    rule('xml', 'app/update/mode'),
    (v) =>
      `<?xml version="1.0"?>\r\n<app>\r\n<!-- <mode>x</mode> --><update a='1'><mode>\r\n  ${v}\r\n</mode></update></app>\r\n`,
  ],
  [rule('xml', 'app/update/@mode'), (v) => `<app><other mode="x"/><update\n  a='>' mode = '${v}'/></app>`],
  [rule('text', '^\\s*"auto"\\s+"([^"\\n]*)"'), (v) => `"state"\n{\n\t"auto"\t\t"${v}"\n\t"size"\t"12"\n}\n`],
];

describe('a value in a record', () => {
  it.each(RECORDS)('%o is read, and another put in its place with nothing else changed', (at, make) => {
    expect(readValue(make('0'), at)).toBe('0');
    expect(writeValue(make('0'), at, '1')).toBe(make('1'));
    expect(writeValue(make('when asked'), at, 'by itself')).toBe(make('by itself'));
    expect(writeValue(make('0'), at, '0')).toBe(make('0'));
  });

  it('of any signs comes back as it was put, or is refused', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RECORDS), fc.string({ unit: 'grapheme', maxLength: 12 }), ([at, make], value) => {
        try {
          const written = writeValue(make('0'), at, value);
          expect(readValue(written, at)).toBe(value);
          if (value === '') return;
          // And back again to what it was.
          expect(writeValue(written, at, '0')).toBe(make('0'));
        } catch (error) {
          if (!isFailure(error, 'record/not-as-ruled')) throw error;
        }
      }),
    );
  });

  it('stays a number or a truth where it was one', () => {
    expect(writeValue('{"a": 2, "b": "2"}', rule('json', 'a'), '0')).toBe('{"a": 0, "b": "2"}');
    expect(writeValue('{"a": true}', rule('json', 'a'), 'false')).toBe('{"a": false}');
    expect(writeValue('{"a": 2}', rule('json', 'a'), 'never')).toBe('{"a": "never"}');
  });

  it.each<[string, RecordRule, string, string]>([
    ['no JSON', rule('json', 'a'), '{"a": \n1', 'is no JSON'],
    ['no such field', rule('json', 'a/b'), '{"a": {"c": 1}}', 'nothing at a/b'],
    ['a list', rule('json', 'a'), '{"a": [1]}', 'no single value'],
    ['no such key', rule('ini', 'a/b'), '[a]\nc=1', 'nothing at a/b'],
    ['a key twice', rule('ini', 'a/b'), '[a]\nb=1\nb=2', 'a/b 2 times'],
    ['no XML', rule('xml', 'a/b'), '<a><b>1</c></a>', 'is no XML'],
    ['an element twice', rule('xml', 'a/b'), '<a><b>1</b><b>2</b></a>', 'a/b 2 times'],
    ['an element with more in it', rule('xml', 'a/b'), '<a><b>1<c/></b></a>', 'more than a text'],
    ['an empty element', rule('xml', 'a/b'), '<a><b/></a>', 'has nothing in a/b'],
    ['nothing that fits', rule('text', 'auto=(\\d)'), 'auto=x', 'nothing that the pattern finds'],
    ['a fit twice', rule('text', 'auto=(\\d)'), 'auto=1\nauto=2', 'more than one place'],
  ])('is not found in %s, and nothing is written', (_, at, text, says) => {
    for (const work of [() => readValue(text, at), () => writeValue(text, at, '1')])
      expect(work).toThrow(
        expect.objectContaining({
          code: 'record/not-as-ruled',
          facts: expect.objectContaining({ what: expect.stringContaining(says) }),
        }),
      );
  });

  it('is found by a pattern of any kind in time by the length of the text', () => {
    expect(() => readValue('a'.repeat(50_000), rule('text', '(a+)+b'))).toThrow();
    expect(() => readValue('a'.repeat(50_000), rule('text', '((?:a|aa)+)b'))).toThrow();
  });
});

it('is what it would be with the switch otherwise, and nothing else changes', () => {
  const text = '; mine\r\n[mods]\r\nenabled = 1 \r\n';
  const others = switchedTexts(text, { file: 'a.ini', form: 'ini', at: 'mods/enabled', on: '1' });
  expect(others).toContain(text.replace('1', '0'));
  expect(others).not.toContain(text);
  expect(others.every((other) => /^; mine\r\n\[mods\]\r\nenabled = \w* \r\n$/.test(other))).toBe(true);
  expect(switchedTexts('[mods]\n', { file: 'a.ini', form: 'ini', at: 'mods/enabled', on: '1' })).toEqual([]);
});

it('is looked for in time by the length of a line', () => {
  const blanks = ' '.repeat(500_000);
  expect(() => readValue(`a${blanks}b\n[x${blanks}\n`, rule('ini', 'a/b'))).toThrow();
  expect(readValue(`mode =${blanks}x${blanks}y${blanks}`, rule('ini', 'mode'))).toBe(`x${blanks}y`);
  const name = 'n'.repeat(500_000);
  expect(readValue(`<${name} a='1' b='2'/>`, rule('xml', `${name}/@b`))).toBe('2');
});

describe('a rule', () => {
  const read = (more: object) => RecordRuleSchema.safeParse({ ...rule('text', 'a=(.*)'), ...more });
  it.each([
    [{ goes: '1' }, 'the same as'],
    [{ file: '../outside.cfg' }, ''],
    [{ stops: 'a\nb' }, 'more than one line'],
  ])('%o is refused', (more, says) => {
    const { success, error } = read(more);
    expect(success).toBe(false);
    expect(error!.issues.map(({ message }) => message).join()).toContain(says);
  });
});
