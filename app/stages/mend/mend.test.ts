import { describe, expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import type { Until, WorkItem } from '#core/mend';
import { catalogueOf } from '../../../core/testing/mods';
import type { MendedView } from '~/queries';
import { byWeight, countOf, type Filter, filtered, nextStep } from './filters';
import { moveWords } from '~/parts/mod-names';
import { dueWords, leftWords, notRunning, stepWords, untilWords } from './mend-words';
import { mendReport } from './report';

const item = (mod: string, more: Partial<WorkItem> = {}): WorkItem => ({
  ...{ mod: asMod(mod), from: '1', to: '2', action: 'update', state: 'open' },
  ...{ verdict: 'stated', byItself: 'stated', reasons: [] },
  alone: { moves: [], unmet: undefined, leftWithout: [] },
  ...more,
});
const catalogue = catalogueOf({
  tow: [{ version: '1' }, { version: '2' }],
  fog: [{ version: '1' }, { version: '2' }],
  ab: [{ version: '1' }],
});
const NAMES = new Map([['tow', 'Towline | loader']]);
const items = [
  item('tow', { state: 'done', from: '2', action: 'keep' }),
  item('fog', { state: 'blocked' }),
  item('mist', { action: 'bench', to: undefined, verdict: 'in doubt' }),
];
const view = { catalogue, touched: new Map([[asMod('fog'), ['a']]]), undecided: new Set([asMod('mist')]) };

describe('the work list', () => {
  it.each<[Filter, string[]]>([
    ['all', ['tow', 'fog', 'mist']],
    ['to-do', ['fog', 'mist']],
    ['done', ['tow']],
    ['update', ['fog']],
    ['touched', ['fog']],
    ['in-doubt', ['mist']],
    ['choice', ['mist']],
    ['unmaintained', []],
  ])('%s', (filter, mods) => {
    expect(filtered(items, filter, view, { words: '', names: NAMES }).map(({ mod }) => mod)).toEqual(mods);
    expect(countOf(items, filter, view)).toBe(mods.length);
  });

  it('is filtered by name, its next step is the first that can be taken, and must-haves come back first', () => {
    expect(filtered(items, 'all', view, { words: ' LOADER ', names: NAMES }).map(({ mod }) => mod)).toEqual(['tow']);
    // What wants a choice waits until nothing else can be done.
    expect(nextStep([items[2]!, item('last')], view)?.mod).toBe('last');
    expect(nextStep(items, view)?.mod).toBe('mist');
    expect(nextStep(items.slice(0, 2), view)).toBeUndefined();
    const weights = new Map([
      [asMod('fog'), 'spare' as const],
      [asMod('tow'), 'must' as const],
    ]);
    expect(byWeight([asMod('fog'), asMod('mist'), asMod('tow')], { weights })).toEqual(['tow', 'mist', 'fog']);
  });
});

describe('words of mending', () => {
  it.each<[Partial<WorkItem>, string]>([
    [{}, 'Update fog to 2'],
    [{ action: 'go-back', to: '0' }, 'Take fog back to 0'],
    [{ action: 'add', from: undefined }, 'Add fog 2'],
    [{ action: 'bench', to: undefined }, 'Take fog 1 out'],
    [{ action: 'bench', to: undefined, from: undefined }, 'Take fog out'],
    [{ action: 'leave', to: '1' }, 'Keep fog 1'],
  ])('%j', (more, words) => expect(stepWords(item('fog', more), new Map())).toBe(words));

  it('say what moves, and how much is left', () => {
    expect(moveWords({ from: '1', to: undefined }, 'Fog')).toBe('Fog 1 out');
    expect(moveWords({ from: undefined, to: '2' }, 'Fog')).toBe('Fog 2 in');
    expect(leftWords(items)).toBe('2 steps to do, 1 of them blocked');
    expect(leftWords(items.slice(0, 1))).toBe('Nothing left to do');
    expect(notRunning(asBuild('2'))).toEqual({ reason: 'Does not run on 2', until: { kind: 'runs' } });
  });

  it.each<[Until | undefined, string, string]>([
    [{ kind: 'day', day: '2027-03-01' }, 'until 2027-03-01', '2027-03-01 has come'],
    [{ kind: 'build', build: asBuild('3') }, 'until the folder is at 3', 'the folder is at 3 or newer'],
    [{ kind: 'patch' }, 'until the next build is out', 'a newer build is out'],
    [{ kind: 'release' }, 'until it has a newer release', 'it has a newer release'],
    [{ kind: 'runs' }, 'until a release runs here', 'a release of it runs here'],
    [undefined, 'for now', ''],
  ])('%j', (until, words, due) => {
    expect(untilWords(until)).toBe(words);
    expect(dueWords({ mod: asMod('m'), reason: '', at: 0, ...(until && { until }) })).toBe(due);
  });
});

it('a report is Markdown that no name breaks out of', () => {
  const mended: MendedView = {
    ...{ id: 'x', at: 0, build: asBuild('2'), from: '1', isTakenBack: true, canGoBack: false },
    moves: [{ mod: asMod('ab'), name: 'A|B\n# heading', from: '1', to: undefined }],
  };
  const bench = [{ mod: asMod('fog'), release: '1', reason: '', at: 0, isDue: false }];
  const of = { catalogue, items: [items[1]!], bench, from: asBuild('1'), to: asBuild('2'), onDisk: undefined };
  const text = mendReport('A *game*', of, [mended]);
  expect(text).toContain('# A \\*game\\*: mods for 2');
  expect(text).toContain('the game from 1 to 2 (taken back)\n  - A\\|B \\# heading 1 out');
  expect(text).toContain('- fog: update, 1 → 2; stated (blocked)');
  expect(text).toContain('- fog 1, for now: no reason given');
  const unnamed = { mod: asMod('tow'), reason: 'later', at: 0, isDue: false };
  expect(mendReport('', { ...of, bench: [unnamed] }, [])).toContain('- tow, for now: later');
});
