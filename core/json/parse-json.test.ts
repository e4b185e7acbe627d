import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Failure } from '#core/failure';
import { parseJson } from './index';

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

  it('that lacks a field is refused at the nearest thing that is there', () => {
    expect(refusal('{\n  "name": "a"\n}')).toMatchObject({ code: 'json/does-not-fit', line: 1, field: 'list' });
    expect(refusal('{"name":"a","list":[\n{}]}')).toMatchObject({ line: 2, field: 'list.0.size' });
  });

  it('with lines of any ending counts them the same', () => {
    expect(refusal('{\r\n"name": 1,\r\n"list": []}')).toMatchObject({ line: 2, field: 'name' });
  });

  it('that is deeper than any format is refused, not overflowed', () => {
    expect(refusal(`\n${'['.repeat(100_000)}`)).toMatchObject({ code: 'json/malformed', line: 2, what: 'TooDeep' });
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
