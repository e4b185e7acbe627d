import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Failure } from '#core/failure';
import { parseJson } from './index';
import { scanJson } from './scan';
import { cases } from '../testing/cases';

const Schema = z.object({ name: z.string(), list: z.array(z.object({ size: z.number() })) });

function refusal(text: string): unknown {
  try {
    parseJson(text, Schema, 'given.json');
  } catch (error) {
    if (error instanceof Failure) return { code: error.code, ...error.facts };
    throw error;
  }
  return 'accepted';
}

describe('JSON', () => {
  it('that fits is read', () => {
    expect(parseJson('{"name":"a","list":[{"size":1}]}', Schema, 'f')).toEqual({ name: 'a', list: [{ size: 1 }] });
  });

  it.each([
    ['', 1],
    ['{\n"name": "a",\n}', 3],
    ['{\n// a comment\n"name": "a"}', 2],
    ['{"name": "a"} more', 1],
  ])('that is broken (%j) is refused with its line', (text, line) => {
    expect(refusal(text)).toMatchObject({ code: 'json/malformed', file: 'given.json', line });
  });

  it('that does not fit is refused with line and field', () => {
    const text = '{\n  "name": "a",\n  "list": [\n    { "size": 1 },\n    { "size": "2" }\n  ]\n}';
    expect(refusal(text)).toMatchObject({ code: 'json/does-not-fit', line: 5, field: 'list.1.size' });
  });

  it('with a field that nobody knows is refused by its name and line', () => {
    const strict = z.object({ list: z.array(z.strictObject({ size: z.number() })) });
    const text = '{\n  "list": [\n    { "size": 1,\n      "sise": 2 }\n  ]\n}';
    expect(() => parseJson(text, strict, 'f')).toThrow(
      expect.objectContaining({
        facts: expect.objectContaining({ line: 4, field: 'list.0.sise' }) as unknown,
      }) as Error,
    );
  });

  it('that lacks a field is refused at the nearest thing that is there', () => {
    expect(refusal('{\n  "name": "a"\n}')).toMatchObject({ code: 'json/does-not-fit', line: 1, field: 'list' });
    expect(refusal('{"name":"a","list":[\n{}]}')).toMatchObject({ line: 2, field: 'list.0.size' });
  });

  it('with lines of any ending counts them the same', () => {
    expect(refusal('{\r\n"name": 1,\r\n"list": []}')).toMatchObject({ line: 2, field: 'name' });
  });

  it('that is deeper than any format is refused, not overflowed', () => {
    expect(refusal(`\n${'['.repeat(100_000)}`)).toMatchObject({ code: 'json/malformed', line: 2, what: 'TooDeep' });
    // Neither what stands in a string counts, nor does a string go on behind its line.
    const after = `"[[\\"[",\n"open\n\n${'['.repeat(100_000)}`;
    expect(refusal(after)).toMatchObject({ code: 'json/malformed', line: 4, what: 'TooDeep' });
    expect(refusal(`{"name":"${'['.repeat(100_000)}","list":[]}`)).toBe('accepted');
    expect(refusal(`{"name":"\\"${'{'.repeat(100)}","list":[]}`)).toBe('accepted');
  });

  it('with a million elements that do not fit names the first', () => {
    const text = `{"name":"a","list":[{"size":1},\n${'1,'.repeat(1_000_000)}1]}`;
    expect(refusal(text)).toMatchObject({ code: 'json/does-not-fit', line: 2, field: 'list.1' });
  });

  it('with a key twice is judged by the later one, which is read', () => {
    expect(refusal('{"name":"a","list":[],\n"name":1}')).toMatchObject({ line: 2, field: 'name' });
  });
});

describe('the scanner', () => {
  const parses = (text: string): boolean => {
    try {
      JSON.parse(text);
      return true;
    } catch {
      return false;
    }
  };

  it('accepts just what the platform accepts', () => {
    const parts = [
      '{',
      '}',
      '[',
      ']',
      '"a"',
      ':',
      ',',
      '1',
      '-',
      '0',
      '.5',
      'e3',
      'null',
      'true',
      ' ',
      '\n',
      '"\\n"',
      '"\\x"',
      '\u00a0',
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...parts), { maxLength: 8 }), (some) => {
        const text = some.join('');
        expect([text, scanJson(text) === undefined]).toEqual([text, parses(text)]);
      }),
      { numRuns: cases(1000) },
    );
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(scanJson(JSON.stringify(value, null, 1))).toBeUndefined();
      }),
    );
  });

  it('tells the way to every value', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        scanJson(JSON.stringify(value), (way) => {
          const there = way.reduce<unknown>((at, step) => (at as Record<string, unknown>)[step], value);
          expect(there).not.toBeUndefined();
        });
      }),
    );
  });

  it.each([
    ['[1,\n2', { what: 'EndExpected', line: 2 }],
    ['{"a"\n1}', { what: 'ColonExpected', line: 2 }],
    ['{"a":1 "b":2}', { what: 'CommaExpected', line: 1 }],
    ['{a:1}', { what: 'NameExpected', line: 1 }],
    ['["a\n"]', { what: 'UnterminatedString', line: 1 }],
    ['["\t"]', { what: 'InvalidCharacter', line: 1 }],
    ['"\\q"', { what: 'InvalidEscape', line: 1 }],
    ['[-]', { what: 'InvalidNumber', line: 1 }],
    ['01', { what: 'EndExpected', line: 1 }],
    ['{} {}', { what: 'EndExpected', line: 1 }],
  ])('%j: %o', (text, fault) => {
    expect(scanJson(text)).toEqual(fault);
  });
});
