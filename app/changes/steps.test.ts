import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it } from 'vitest';
import type { GameRules, RecordRule } from '#core/builds';
import type { Step } from '#core/changes';
import { contentName, contentPath } from '#core/contents';
import { PIECE_SIZE } from '#core/digest';
import { IN_GAME } from '#core/keepsakes';
import { memoryFolder } from '#core/folders';
import { platformSha256 } from '~/remote/sha256';
import { closeDb } from '~/store/db';
import { keyOfText } from '../../core/testing/memory-disk';
import { aroundFlags } from './flags';
import { recordBranch, recordBy, recordSteps, recordValue, withBranch, withBuild, withUpdates } from './install-record';
import { ownSteps } from './own-steps';
import { editSteps, inPlaceSteps, isInPlace, layDownSteps, madeTree, planOfPart } from './plans';

/* Which steps a change is made of. */

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const [A, B, C] = ['a', 'b', 'c'].map(keyOfText) as [never, never, never];

beforeEach(() => {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
});

describe('a file that is edited', () => {
  const file = { path: 'x', text: 'old', isReadOnly: false };
  const write: Step = { do: 'write', text: 'new', to: 'staged/s/edit.dat', key: keyOfText('new') };
  const place: Step = { do: 'place', from: write.to, to: 'x', key: write.key, before: keyOfText('old') };
  const flag = (readOnly: boolean): Step => ({ do: 'flag', path: 'x', readOnly, before: !readOnly });

  it.each<[boolean, boolean, Step[]]>([
    [false, false, [write, place]],
    [false, true, [write, place, flag(true)]],
    [true, true, [flag(false), write, place, flag(true)]],
    [true, false, [flag(false), write, place]],
  ])('read-only before %s, after %s', async (isReadOnly, after, steps) => {
    expect(await editSteps('s', { ...file, isReadOnly }, 'new', after)).toEqual(steps);
  });

  it('with the text that it has changes its flag alone, or nothing', async () => {
    expect(await editSteps('s', file, 'old', false)).toEqual([]);
    expect(await editSteps('s', file, 'old', true)).toEqual([flag(true)]);
    expect(await editSteps('s', { ...file, isReadOnly: true }, 'old', false)).toEqual([flag(false)]);
  });
});

it('read-only files in the way are lifted first; what takes their place is so again, what goes is not', async () => {
  const steps: Step[] = [
    { do: 'take', path: 'gone', key: A },
    { do: 'place', from: 'staged/s/0.dat', to: 'changed', key: B, before: A },
    { do: 'place', from: 'staged/s/1.dat', to: 'fresh', key: C, before: null },
    { do: 'copy', from: 'y', to: 'staged/s/0.dat', key: B },
  ];
  const asked: string[][] = [];
  const readOnlyOf = async (paths: readonly string[]) => (asked.push([...paths]), new Set(['gone', 'changed']));
  const flag = (path: string, readOnly: boolean): Step => ({ do: 'flag', path, readOnly, before: !readOnly });
  expect(await aroundFlags({ readOnlyOf }, steps)).toEqual([
    steps[3],
    ...[flag('gone', false), flag('changed', false)],
    ...steps.slice(0, 3),
    flag('changed', true),
  ]);
  expect(asked).toEqual([['gone', 'changed']]);
});

describe('a lay-down', () => {
  const row = (path: string, key: never, more: object) => ({ path, key, size: 1, ...more }) as never;
  const plan = {
    rows: [
      row('same', A, { source: { how: 'keep', path: 'same' } }),
      row('moved', B, { source: { how: 'keep', path: 'elsewhere' } }),
      row('stored', C, { source: { how: 'stored', path: 'contents/xx/c' } }),
      row('list', A, { source: { how: 'write' }, text: 'a' }),
    ],
    found: new Map([
      ['same', A],
      ['elsewhere', B],
      ['list', B],
    ]) as never,
  };

  it('in place gets ready what differs, then takes what is not to be there, then puts in place', () => {
    const at = (i: number): string => `staged/s/${i}.dat`;
    expect(inPlaceSteps('s', plan, 't1')).toEqual([
      { do: 'copy', from: 'trees/t1/elsewhere', to: at(0), key: B },
      { do: 'copy', from: 'contents/xx/c', to: at(1), key: C },
      { do: 'write', text: 'a', to: at(2), key: A },
      { do: 'take', path: 'trees/t1/elsewhere', key: B },
      { do: 'place', from: at(0), to: 'trees/t1/moved', key: B, before: null },
      { do: 'place', from: at(1), to: 'trees/t1/stored', key: C, before: null },
      { do: 'place', from: at(2), to: 'trees/t1/list', key: A, before: B },
    ]);
  });

  it('of some paths leaves the others alone', () => {
    const part = planOfPart(plan, new Set(['list', 'elsewhere']));
    expect([part.rows.map(({ path }) => path), [...part.found.keys()]]).toEqual([['list'], ['elsewhere', 'list']]);
  });

  it('beside writes the whole tree, changes the record, and swaps at the end, saying what it leaves', async () => {
    const record: Step[] = [{ do: 'flag', path: 'r', readOnly: false, before: true }];
    const steps = await layDownSteps(plan, 't1', 't2', record, [['list', A, 5, true]]);
    expect(steps.map((step) => ('to' in step ? step.to : step.do))).toEqual([
      ...['same', 'moved', 'stored', 'list'].map((path) => `trees/t2/${path}`),
      'flag',
      't2',
    ]);
    expect(steps.at(-1)).toEqual({ do: 'exchange', from: 't1', to: 't2', leaves: [['list', A, 5, true]] });
    const set = { version: 1, id: 's', at: 0, what: 'lay-down', facts: {}, steps } as const;
    expect([isInPlace(set), isInPlace({ ...set, steps: record })]).toEqual([false, true]);
    expect(madeTree('12345678-90ab')).toBe('t-12345678');
  });
});

it('the player’s own files come from the store over what lies there, and what goes is taken first', async () => {
  const places = [{ name: IN_GAME, onDisk: (path: string) => `trees/t1/${path}` }] as never;
  const own = (path: string, key: never) => ({ place: IN_GAME, path, kind: 'saves', key, modified: 0 }) as const;
  const steps = await ownSteps('s', places, {
    put: [{ place: IN_GAME, path: 'one', key: A, modified: 7, now: null }],
    take: [own('two', B)],
  });
  const to = 'staged/s/own-0.dat';
  expect(steps).toEqual([
    { do: 'copy', from: contentPath(await contentName(A, platformSha256)), to, key: A, modified: 7 },
    { do: 'take', path: 'trees/t1/two', key: B },
    { do: 'place', from: to, to: 'trees/t1/one', key: A, before: null },
  ]);
  const elsewhere = { ...own('three', C), place: 'ownx' };
  await expect(ownSteps('s', places, { put: [], take: [elsewhere] })).rejects.toMatchObject({
    ...{ code: 'folder/gone', facts: { path: 'three' } },
  });
});

describe('a storefront’s record', () => {
  const rule: RecordRule = {
    ...{ file: 'state.json', form: 'json', at: 'updates', stops: 'no', goes: 'yes' },
    ...{ build: 'build', branch: 'branch', branchCode: 'code' },
  };
  const TEXT = '{ "updates": "yes", "build": "1", "branch": "main", "code": "" }';
  const record = { path: 'state.json', rule, inGame: false };

  async function diskWith(content: Uint8Array<ArrayBuffer> | undefined, readOnly = false) {
    const folder = memoryFolder();
    if (content) await folder.writeWhole('state.json', content);
    const readOnlyOf = async (paths: readonly string[]) => new Set(readOnly ? paths : []);
    return { ...folder, readOnlyOf };
  }
  const textIn = (steps: readonly Step[]): string | undefined => steps.find((step) => step.do === 'write')?.text;

  it('lies where the install says, in the game’s folder where it says nothing, or nowhere', () => {
    const rules = { record: rule } as GameRules;
    const install = { tree: 't1' } as never;
    expect(recordBy({} as GameRules, install)).toBeUndefined();
    expect(recordBy(rules, install)).toEqual({ rule, inGame: true, path: 'trees/t1/state.json' });
    const at = (own: object) => recordBy(rules, { tree: 't1', record: own } as never);
    expect(at({ kind: 'disk', path: 'q/r.json' })).toMatchObject({ inGame: false, path: 'q/r.json' });
    expect(at({ kind: 'served', name: 'r.json' })).toMatchObject({ inGame: false, path: 'beside/record/r.json' });
  });

  it('is changed value by value, and keeps its flag unless it is said', async () => {
    const disk = await diskWith(bytes(TEXT), true);
    const stops = await recordSteps('s', disk, record, withUpdates('stops'));
    expect(textIn(stops)).toBe(TEXT.replace('yes', 'no'));
    expect(stops.map((step) => (step.do === 'flag' ? step.readOnly : step.do))).toEqual([
      false,
      'write',
      'place',
      true,
    ]);
    const unlocked = await recordSteps('s', disk, record, async (text) => text, false);
    expect(unlocked).toEqual([{ do: 'flag', path: 'state.json', readOnly: false, before: true }]);
    expect(textIn(await recordSteps('s', disk, record, withBuild('2')))).toBe(TEXT.replace('"1"', '"2"'));
    const branched = await recordSteps('s', disk, record, withBranch('trial', 'key'));
    expect(textIn(branched)).toBe(TEXT.replace('main', 'trial').replace('""', '"key"'));
    const stopped = await diskWith(bytes(TEXT.replace('yes', 'no')));
    expect(textIn(await recordSteps('s', stopped, record, withBranch('trial', undefined)))).toBe(
      TEXT.replace('main', 'trial'),
    );
    const { build: _, branch: __, branchCode: ___, ...bare } = rule;
    expect(await recordSteps('s', disk, { ...record, rule: bare }, withBuild('2'))).toEqual([]);
  });

  it('is read, and nothing is said of one that is not there', async () => {
    const disk = await diskWith(bytes(TEXT), true);
    expect(await recordValue(disk, record)).toEqual({ value: 'yes', isReadOnly: true });
    expect(await recordBranch(disk, record)).toBe('main');
    const none = await diskWith(undefined);
    expect(await recordValue(none, record)).toBeUndefined();
    expect(await recordBranch(none, record)).toBeUndefined();
    expect(await recordValue(none, undefined)).toBeUndefined();
    expect(await recordSteps('s', none, record, withBuild('2'))).toEqual([]);
    const { branch: _, ...bare } = rule;
    expect(await recordBranch(disk, { ...record, rule: bare })).toBeUndefined();
  });

  it.each([
    ['no UTF-8', Uint8Array.of(0x22, 0xff), 'is no UTF-8 text'],
    ['larger than a piece', new Uint8Array(PIECE_SIZE + 1), 'is larger than 1 MiB'],
  ])('that is %s is not touched', async (_, content, what) => {
    const disk = await diskWith(content);
    await expect(recordSteps('s', disk, record, withBuild('2'))).rejects.toMatchObject({
      ...{ code: 'record/not-as-ruled', facts: { file: 'state.json', what } },
    });
  });

  it('of just one piece is read', async () => {
    const disk = await diskWith(bytes(TEXT.padEnd(PIECE_SIZE)));
    expect((await recordValue(disk, record))!.value).toBe('yes');
  });
});
