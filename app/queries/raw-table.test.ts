import { expect, it } from 'vitest';
import { failureCode } from '../../core/testing/digest';
import { readRawTable } from './raw-table';

it.each([',', ';', '\t'])('reads CSV with %j between the cells, and knows each row’s line', (separator) => {
  const text = [['mod', 'builds'], ['Fog', '"2.9.4\nor so"'], [], ['Ice', '3.0.0']].map((row) => row.join(separator));
  const { heads, rows } = readRawTable('mods.csv', `\ufeff${text.join('\n')}\n`);
  expect(heads).toEqual(['mod', 'builds']);
  expect(rows).toEqual([
    { line: 2, cells: ['Fog', '2.9.4\nor so'] },
    { line: 5, cells: ['Ice', '3.0.0'] },
  ]);
});

it('takes the apostrophe off that keeps a spreadsheet from running a cell', () => {
  const { rows } = readRawTable('mods.csv', "mod,builds\r\n'=1+1,'quoted'\r\n");
  expect(rows[0]!.cells).toEqual(['=1+1', "'quoted'"]);
});

it('reads JSON', () => {
  const { heads, rows } = readRawTable('mods.json', ' [{"mod":"Fog"}]');
  expect(heads).toEqual(['mod']);
  expect(rows).toEqual([{ line: 1, cells: ['Fog'] }]);
});

it.each([
  ['mod,builds\nFog,"2.9.4', 'table/malformed'],
  ['mod,builds\n', 'table/empty'],
  ['', 'table/empty'],
  ['[{"mod":', 'json/malformed'],
  ['[]', 'table/empty'],
  [`mod,builds\n${','.repeat(300)}`, 'table/too-large'],
  [`mod,builds\n${'Fog,1\n'.repeat(100_001)}`, 'table/too-large'],
])('refuses %j', (text, code) => {
  expect(failureCode(() => readRawTable('mods.csv', text))).toBe(code);
});
