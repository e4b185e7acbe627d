import 'fake-indexeddb/auto';
import { readFileSync } from 'node:fs';
import { IDBFactory } from 'fake-indexeddb';
import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { asBuild, asMod, type GameRules } from '#core/builds';
import { catalogueOf } from '../../core/testing/mods';
import { pickedDisk } from '~/folders';
import { platformSha256 } from '~/remote/sha256';
import { closeDb } from '~/store/db';
import { addGame } from '~/store/games';
import { getHold, putHold } from '~/store/holds';
import { addInstall, getInstall, updateInstall } from '~/store/installs';
import { listProfiles, putProfile } from '~/store/profile-records';
import type { HoldRecord, Install } from '~/store/records';
import { getCatalogue } from '~/store/told';
import type { DiskPool } from '~/workers';
import { changeDisk } from '~/workers/change-task';
import { cloneWithHandles, DirectoryHandle, pickable, storageOf } from '../testing/platform-handles';
import { changesOf, keeping, type Runner } from './changes-of';
import { mirrorInstall, mirrorState, takeFromMirror } from './mirror';

/* What a browser knows of a folder lies in the folder's store too, where another browser finds it. */

vi.mock('~/places/can-change', () => ({
  canChange: async () => true,
  canRead: async () => true,
  askFor: async () => true,
}));
vi.stubGlobal('structuredClone', cloneWithHandles);

const MIST = asMod('mist');
let game: FileSystemDirectoryHandle;
let install: Install;
let carried: string[];

const { signal } = new AbortController();
const runner: Runner = {
  add: () => undefined,
  pausing: (work) => work(signal),
  pool: {
    async run(task: Parameters<typeof changeDisk>[0]) {
      carried.push(task.act.act);
      if (task.place.kind !== 'picked') throw new Error(task.place.kind);
      await changeDisk(task, pickedDisk(task.place), { sha256: platformSha256, progress: () => undefined, signal });
      return {};
    },
  } as unknown as DiskPool,
};

/** Leaves a text as the mirror of the folder. */
const leave = (text: string): Promise<void> => changesOf(install).carryOut(runner, { act: 'mirror', text });

/** Another browser, to which nothing is known but where the folder lies. */
async function inAnotherBrowser(id: string): Promise<Install> {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
  const { weights: _, target: __, ...bare } = install;
  await addInstall({ ...bare, id, weights: [] });
  await takeFromMirror(id);
  return getInstall(id);
}

beforeEach(async () => {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
  vi.stubGlobal('navigator', { storage: storageOf(new DirectoryHandle('')) });
  carried = [];
  game = pickable('game');
  install = {
    ...{ id: 'a', game: 'g', title: 'A', folder: 'game', place: { kind: 'picked', handle: game }, tree: 't1' },
    ...{ profile: 'first', ownership: { language: 'x', addOns: [], optional: [] }, changedAt: 0, arrived: true },
    ...{ weights: [[MIST, 'must']], pins: [[MIST, '1']] },
    target: { build: asBuild('1'), releases: [[MIST, '1']], decidedBy: 'choice', at: 0 },
  } as Install;
  await addInstall(install);
});
afterAll(() => vi.unstubAllGlobals());

describe('what is decided about a folder', () => {
  it('is found by another browser, with its profiles and its hold', async () => {
    await putProfile({ install: 'a', id: 'calm', title: 'Calm', weights: [] });
    const { stores } = JSON.parse(readFileSync('tests/samples/11/database.json', 'utf8')) as {
      stores: { holds: { records: [unknown, HoldRecord][] } };
    };
    const hold = { ...stores.holds.records[0]![1], install: 'a' };
    await putHold(hold);
    await mirrorInstall(runner, 'a');
    expect(carried).toEqual(['mirror']);
    // What is there already is not written again.
    await mirrorInstall(runner, 'a');
    expect(carried).toEqual(['mirror']);
    const there = await inAnotherBrowser('b');
    expect(there).toMatchObject({ title: 'A', weights: [[MIST, 'must']], pins: [[MIST, '1']], target: install.target });
    expect(await getHold('b')).toEqual({ ...hold, install: 'b' });
    expect((await listProfiles('b')).map(({ title }) => title)).toEqual(['Calm', 'First']);
  });

  it('comes whole of a profile that counts and is not the first one, and of the folder', async () => {
    const sound = { kind: 'served', root: 'games', folder: 'saves' } as const;
    const there = {
      order: [MIST],
      orderRules: [{ mod: MIST, goes: 'last' }],
      along: [['notes.txt', true]],
      carries: [{ mod: MIST, decided: [], rules: [{ file: 'a.json', name: 'n', choice: 'ours' }] }],
      elsewhere: [{ name: 'x', kind: 'saves', title: 'Saves', at: sound }],
      followed: [{ name: 'y', title: 'Mods', at: sound, each: true, mods: [], waiting: [] }],
    } as unknown as Install;
    await putProfile({ install: 'a', id: 'calm', title: 'Calm', weights: [] });
    const calm = await updateInstall('a', (now) => ({ ...now, ...there, profile: 'calm' }));
    await mirrorInstall(runner, 'a');
    expect(await inAnotherBrowser('b')).toEqual({ ...calm, id: 'b' });
    const [own, first] = await listProfiles('b');
    expect([own?.title, own?.orderRules, first?.title, first?.order]).toEqual([
      'Calm',
      there.orderRules,
      'First',
      undefined,
    ]);
    // The next job there writes nothing else over it.
    carried = [];
    await mirrorInstall(runner, 'b');
    expect(carried).toEqual([]);
  });

  it('leaves the places that were pointed at here, which no other browser can reach', async () => {
    const at = { kind: 'picked', handle: pickable('saves') } as const;
    const saves = { name: 'x', kind: 'saves', title: 'Saves', at } as const;
    await updateInstall('a', (now) => ({ ...now, elsewhere: [saves] }));
    await mirrorInstall(runner, 'a');
    await takeFromMirror('a');
    expect((await getInstall('a')).elsewhere).toEqual([saves]);
    expect((await inAnotherBrowser('b')).elsewhere).toEqual([]);
  });

  it('of another game is no mirror of this folder, and what a newer program has left stays', async () => {
    await mirrorInstall(runner, 'a');
    closeDb();
    globalThis.indexedDB = new IDBFactory();
    await addInstall({ ...install, id: 'b', game: 'another', weights: [] });
    await takeFromMirror('b');
    expect((await getInstall('b')).weights).toEqual([]);
    // The next job leaves it there, until the person says otherwise.
    carried = [];
    await mirrorInstall(runner, 'b');
    expect([await mirrorState(await getInstall('b')), carried]).toEqual(['other-game', []]);
    await updateInstall('b', (now) => ({ ...now, mirrorsOver: true }));
    await mirrorInstall(runner, 'b');
    expect([await mirrorState(await getInstall('b')), carried]).toEqual(['own', ['mirror']]);
    const { ownership } = install;
    await leave(JSON.stringify({ version: 2, game: 'g', install: { profile: 'gone', ownership }, profiles: [] }));
    expect((await inAnotherBrowser('d')).profile).toBe('first');
    expect(await mirrorState(await getInstall('d'))).toBe('unreadable');
    const newer = '{"version":3,"what":"nobody knows yet"}';
    await leave(newer);
    const { id } = await inAnotherBrowser('c');
    await updateInstall(id, (now) => ({ ...now, mirrorsOver: true }));
    carried = [];
    await mirrorInstall(runner, 'c');
    expect([await mirrorState(await getInstall('c')), carried]).toEqual(['newer', []]);
  });

  it('tells another browser of the releases that the folder rests on', async () => {
    const { mods } = catalogueOf({ mist: [{ version: '1' }] });
    await mirrorInstall(runner, 'a', async () => mods);
    await inAnotherBrowser('b');
    await addGame({ id: 'g', title: 'G', rules: {} as GameRules, sources: [] });
    expect((await getCatalogue('g')).mods).toEqual(mods);
  });

  it('is found as the first version left it', async () => {
    const [profile, pools] = ['first', [['saves', 'k1']]];
    const known = { weights: [[MIST, 'must']], ownership: install.ownership, profile, pools };
    for (const profiles of [[], [{ id: 'first', title: 'Mine', weights: known.weights }]]) {
      const text = JSON.stringify({ version: 1, install: known, profiles });
      await leave(text);
      expect(await inAnotherBrowser('b')).toMatchObject(known);
      expect((await listProfiles('b')).map(({ title }) => title)).toEqual([profiles[0]?.title ?? 'First']);
    }
  });

  it('is left alone where it cannot be read, and where none has left any', async () => {
    expect((await inAnotherBrowser('b')).weights).toEqual([]);
    await leave('{ "version": 2 }');
    expect((await inAnotherBrowser('c')).weights).toEqual([]);
  });

  it('of the browser’s own disk lies there already', async () => {
    await addInstall({ ...install, id: 'own', place: { kind: 'browser-disk' } });
    await mirrorInstall(runner, 'own');
    expect(carried).toEqual([]);
  });
});

it('a folder that can only be looked at is changed by nobody', () => {
  for (const place of [{ kind: 'handed' }, { kind: 'list', file: 'x' }] as const)
    expect(() => changesOf({ ...install, place })).toThrow('folder/no-permission');
});

it('keepsakes are kept where the folder’s changes are', async () => {
  const changes = await keeping(install);
  expect(changes.arrivals).toMatchObject({ kind: 'picked', handle: game });
  expect(await changes.disk.readOnlyOf(['trees/t1/x'])).toEqual(new Set());
});
