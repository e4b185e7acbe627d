import { expect, it } from 'vitest';
import { GameRulesSchema } from '#core/builds';
import { compile, patternFaults } from '.';

const record = { file: 'a.cfg', form: 'text' as const, at: 'a=(.*)', stops: '1', goes: '0' };
const log = { file: 'last.log', up: 'ready' };

it.each<[object, string, string]>([
  [{ record: { ...record, at: 'a=(' } }, 'record.at', 'is no pattern'],
  [{ record: { ...record, at: 'a=.*' } }, 'record.at', 'one part in parentheses'],
  [{ record: { ...record, at: '(a)(b)' } }, 'record.at', 'one part in parentheses'],
  [{ record: { ...record, at: '(?<=a)(b)' } }, 'record.at', 'is no pattern'],
  [{ record: { ...record, build: 'a' } }, 'record.build', 'one part in parentheses'],
  [{ record: { ...record, branch: 'a' } }, 'record.branch', 'one part in parentheses'],
  [{ record: { ...record, branchCode: '(' } }, 'record.branchCode', 'is no pattern'],
  [{ log: { ...log, loaded: 'no part' } }, 'log.loaded', 'one part in parentheses'],
  [{ log: { ...log, up: '(' } }, 'log.up', 'is no pattern'],
  [{ versions: [{ file: 'a' }, { file: 'b', pattern: 'x' }] }, 'versions.1.pattern', 'one part in parentheses'],
])('of rules %o the pattern that is none is named', (rules, path, says) => {
  const faults = patternFaults(GameRulesSchema.parse(rules));
  expect(faults.map((fault) => fault.path.join('.'))).toEqual([path]);
  expect(faults[0]!.problem).toContain(says);
});

it('of rules that are as they should be none is named', () => {
  const xml = { ...record, form: 'xml' as const, at: 'a/@(' };
  expect(patternFaults(GameRulesSchema.parse({ record, log, versions: [{ file: 'a', pattern: '(x)' }] }))).toEqual([]);
  // In other forms it is no pattern that leads to the value.
  expect(patternFaults(GameRulesSchema.parse({ record: xml }))).toEqual([]);
  expect(compile('^b').matcher('a\nb').find()).toBe(true);
});
