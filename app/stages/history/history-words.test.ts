import { describe, expect, it } from 'vitest';
import type { StoreView, ToldChange } from '#core/contents';
import { changeTitle } from '~/parts/change-title';
import { didWords, driveRows, keepsWords, stateWords } from './history-words';

const NO_COUNTS = { written: 0, bytes: 0, replaced: 0, added: 0, removed: 0, moved: 0, swapped: false };

const change = (more: Partial<ToldChange>): ToldChange => ({
  ...({ version: 1, id: 's1', at: 0, what: 'lay-down', facts: {}, counts: NO_COUNTS, state: 'made' } as const),
  ...{ keeps: { files: 0, bytes: 0 }, lost: 0, aside: null, elsewhere: false, after: [], ...more },
});

describe('a change is called', () => {
  it.each<[string, Partial<ToldChange>]>([
    ['Laid down 2.9.4 over 3.1.1', { facts: { build: '2.9.4', from: '3.1.1' } }],
    ['Repaired 2.9.4', { facts: { build: '2.9.4', from: '2.9.4' } }],
    ['Tow 1 → 2', { facts: { build: '3', from: '3', 'mod:tow': '["Tow","1","2"]' } }],
    ['Fog 1 out', { facts: { build: '3', from: '3', 'mod:fog': '["Fog","1",null]' } }],
    [
      'Changed 2 mods on 3',
      { facts: { build: '3', from: '3', 'mod:fog': '["Fog",null,"1"]', 'mod:tow': '["Tow","1","2"]' } },
    ],
    ['Laid down 3 over 2', { facts: { build: '3', from: '2', 'mod:tow': '["Tow","1","2"]' } }],
    ['Laid down a folder', {}],
    ['Held 2.9.4', { what: 'hold', facts: { build: '2.9.4' } }],
    ['Released the hold', { what: 'release' }],
    ['Updated from 2.9.4 to 3.1.1 by others', { what: 'outside', facts: { from: '2.9.4', build: '3.1.1' } }],
    // A hand that altered a file is no update.
    ['Changed by others', { what: 'outside', facts: { from: '2.9.4', build: '2.9.4' } }],
  ])('%s', (title, more) => {
    expect(changeTitle(change(more))).toBe(title);
  });
});

it.each<[string, Partial<ToldChange>]>([
  ['1,143 files written, the folder swapped', { counts: { ...NO_COUNTS, written: 1143, swapped: true } }],
  ['1 file replaced, 2 files set aside', { counts: { ...NO_COUNTS, written: 1, replaced: 1, removed: 2 } }],
  ['1 read-only flag', { counts: { ...NO_COUNTS, flagged: 1 } }],
  ['1,143 read-only flags', { counts: { ...NO_COUNTS, flagged: 1143 } }],
  // What an earlier version noted does not say how many.
  ['read-only flags', {}],
  ['3 files changed, 2 added', { what: 'outside', counts: { ...NO_COUNTS, replaced: 3, added: 2 } }],
])('says what it did: %s', (words, more) => {
  expect(didWords(change(more))).toBe(words);
});

it('says what it keeps, and what of that is gone', () => {
  expect(keepsWords(change({}))).toBe('keeps nothing');
  expect(keepsWords(change({ keeps: { files: 2, bytes: 2_300_000 }, lost: 1 }))).toBe('keeps 2.3 MB, 1 file gone');
  expect(stateWords(change({ state: 'undone' }))).toBe('taken back, for good');
});

it('the list of a drive sums changes up, and names reasons by install', () => {
  const reference = (id: string, install: string): StoreView['references'][number] => ({
    ...{ id, at: 0, reason: { kind: 'fetched', install, build: '2.9.4' } as const },
    ...{ files: 1, missing: 0, bytes: 7 },
  });
  const piles = [
    { purpose: { kind: 'game' }, files: 3, bytes: 30 },
    { purpose: { kind: 'change', set: 's1' }, files: 1, bytes: 5 },
    { purpose: { kind: 'change', set: 's2' }, files: 2, bytes: 6 },
    { purpose: { kind: 'reference', id: 'mine' }, files: 1, bytes: 7 },
  ] as const;
  const keeps = { files: 1, bytes: 5 };
  const view: StoreView = {
    history: [change({ id: 's1', keeps }), change({ id: 's2', keeps }), change({ id: 's3' })],
    inventory: { piles, files: 7, bytes: 48 },
    references: [reference('mine', 'a'), reference('theirs', 'b')],
    keepsakes: [],
    unclaimed: [],
    unreadable: [],
  };
  expect(driveRows(view, 'a').map(({ title, files, bytes }) => [title, files, bytes])).toEqual([
    ['The game’s folder', 3, 30],
    ['Kept by 2 changes', 3, 11],
    ['Fetched for 2.9.4', 1, 7],
    // All that it names is counted with another reason.
    ['Fetched for 2.9.4, in another browser', 0, 0],
  ]);
});
