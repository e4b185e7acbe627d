import { expect, it } from 'vitest';
import { type JournalChange, type JournalEntry, whereToGoOn } from './journal';

const write: JournalChange = { kind: 'write-files', tree: 't2', paths: ['a'] };
const checked: JournalChange = { kind: 'checked', tree: 't2', digest: 'd' };
const record: JournalChange = { kind: 'write-record', before: '', after: '' };
const swap: JournalChange = { kind: 'swap', from: 't1', to: 't2' };

const entries = (...steps: [JournalChange, JournalEntry['state']][]): JournalEntry[] =>
  steps.map(([change, state], seq) => ({ seq, install: 'i', job: 'j', at: 0, change, state }));

it.each([
  ['nothing was begun', entries(), 'write'],
  ['a file was being written', entries([write, 'intended']), 'write'],
  ['all was written', entries([write, 'done']), 'write'],
  ['the check was not noted', entries([write, 'done'], [checked, 'intended']), 'write'],
  ['all was checked', entries([write, 'done'], [checked, 'done']), 'swap'],
  ['the record was being written', entries([checked, 'done'], [record, 'intended']), 'swap'],
  ['the swap was begun', entries([record, 'done'], [swap, 'intended']), 'swap'],
  ['the swap was made', entries([record, 'done'], [swap, 'done']), 'nothing'],
  ['what was checked has been undone', entries([write, 'undone'], [checked, 'undone']), 'write'],
] as const)('goes on rightly when %s', (_when, journal, next) => {
  expect(whereToGoOn(journal)).toBe(next);
  expect(whereToGoOn([...journal].reverse())).toBe(next);
});
