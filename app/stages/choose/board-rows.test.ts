import { describe, expect, it } from 'vitest';
import { asMod, type ModId } from '#core/builds';
import { chooseAll } from '#core/choose';
import type { Weight } from '#core/mods';
import type { ChooseView } from '~/queries/views';
import { builds, catalogueOf } from '../../../core/testing/mods';
import { boardMarkdown, boardTable } from './board-export';
import { arrange, boardRows, filterRows, threadsOf } from './board-rows';

const BUILDS = builds('1', '2');
const catalogue = catalogueOf(
  {
    host: [
      { version: '1', builds: ['1'] },
      { version: '2', builds: ['2'] },
    ],
    zephyr: [{ version: '1', builds: ['1', '2'], requires: [{ mod: 'host' }] }],
    anchor: [{ version: '3 | b', builds: ['1'], requires: [{ mod: 'host' }] }],
    extra: [{ version: '1', builds: ['1', '2'] }],
    needy: [{ version: '1', builds: ['2'], requires: [{ mod: 'extra' }] }],
  },
  { host: 'loader' },
);
const weights = new Map<ModId, Weight>(
  (
    [
      ['host', 'must'],
      ['zephyr', 'want'],
      ['anchor', 'want'],
      ['needy', 'spare'],
    ] as const
  ).map(([id, weight]) => [asMod(id), weight]),
);
const installed = [{ mod: asMod('host'), release: '2' }];
const choices = chooseAll(BUILDS, catalogue, weights, new Map(installed.map(({ mod, release }) => [mod, release])));
const view = { catalogue, weights, installed, choices } as unknown as ChooseView;
const [first, second] = choices;
const rows = boardRows(view, second!);
const titles = (order: Parameters<typeof arrange>[1]) =>
  arrange(rows, order).map((entry) =>
    entry.kind === 'title' ? `${entry.title} ${entry.mods}` : `- ${entry.row.mod.id}`,
  );

describe('the rows of the board', () => {
  it('have what becomes of each mod, and those that come in because others need them', () => {
    expect(rows.map(({ mod, weight, change }) => [mod.id, weight, change])).toEqual([
      ['host', 'must', 'stays'],
      ['zephyr', 'want', 'new'],
      ['anchor', 'want', 'lost'],
      ['extra', undefined, 'new'],
      ['needy', 'spare', 'new'],
    ]);
    expect(boardRows(view, first!).find(({ mod }) => mod.id === 'host')!.change).toBe('back');
  });

  it('stand by layer and weight, by what becomes of them, or by name', () => {
    expect(titles('layer')).toEqual([
      ...['Loader and libraries 1', '- host', 'Want 2', '- zephyr', '- anchor', 'Spare 1', '- needy'],
      ...['Added as a requirement 1', '- extra'],
    ]);
    expect(titles('loss').slice(0, 3)).toEqual(['Lost 1', '- anchor', 'Newly added 3']);
    expect(titles('name')).toEqual(['- anchor', '- extra', '- host', '- needy', '- zephyr']);
  });

  it('are filtered by words and by what differs from another build', () => {
    const ids = (words: string, unlike = false) =>
      filterRows(rows, second!, { words, unlike: unlike ? first : undefined }).map(({ mod }) => mod.id);
    expect(ids('')).toHaveLength(5);
    expect(ids('LOADER tester')).toEqual(['host']);
    expect(ids('nothing of the kind')).toEqual([]);
    expect(ids('', true)).toEqual(['host', 'anchor', 'extra', 'needy']);
  });

  it('are tied by what they need and who needs them, also where one is lost', () => {
    expect(threadsOf(view, second!, asMod('needy'))).toEqual([{ mod: 'extra', kind: 'needs' }]);
    expect(threadsOf(view, second!, asMod('host'))).toEqual([
      { mod: 'zephyr', kind: 'needed-by' },
      { mod: 'anchor', kind: 'needed-by' },
    ]);
    expect(threadsOf(view, second!, asMod('anchor'))).toEqual([{ mod: 'host', kind: 'needs' }]);
  });
});

it('go out as a table with a column for each build', () => {
  const { fields, data } = boardTable(view, rows);
  expect(fields).toEqual(['mod', 'author', 'weight', 'on disk', '1', '2']);
  expect(data[0]).toEqual(['host', 'A Tester', 'must', '2', '1', '2']);
  expect(data.every((row) => row.length === fields.length)).toBe(true);
});

it('go out as Markdown in which no name breaks the table', () => {
  const game = { title: 'Ferrywake', builds: new Map([[first!.build, '2026-01-01']]) };
  const text = boardMarkdown(view, boardRows(view, first!), first!, game);
  expect(text).toContain('## Ferrywake 1 (2026-01-01)');
  expect(text).toContain('3 of 4 mods run, 1 roll back, 1 are lost.');
  const lines = text.split('\n').filter((line) => line.startsWith('|'));
  for (const line of lines) expect(line.match(/(?<!\\)\|/g)).toHaveLength(6);
  expect(text).toContain(String.raw`3 \| b`);
});
