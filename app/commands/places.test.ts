import './testing/told';
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { asBuild, asMod, type DepotIndex } from '#core/builds';
import { pickedFolder } from '~/folders';
import { followed } from '~/queries/followed';
import { closeDb } from '~/store/db';
import { addGame, updateGame } from '~/store/games';
import { addTrial, listTrials } from '~/store/holds';
import { addInstall, getInstall, listInstalls, updateInstall } from '~/store/installs';
import { listProfiles, putProfile } from '~/store/profile-records';
import type { Install } from '~/store/records';
import { putTold } from '~/store/told';
import { catalogueOf } from '../../core/testing/mods';
import { cloneWithHandles, DirectoryHandle, pickable, storageOf } from '../testing/platform-handles';
import { copyInstall, findAgain } from './copies';
import { bringDepotsOf } from './depots';
import { forgetElsewhere, noteSynced, pointAtElsewhere } from './elsewhere';
import { decideFollowed, followEach, followFolder, foldersToRead, forgetGone, stopFollowing } from './followed';
import { noteLastStart, noteStart } from './starts';
import { placeStore } from './store-place';

/* What a person points at: folders elsewhere, copies, stores; on handles in memory. */

const { started } = vi.hoisted(() => ({ started: [] as { kind: string; install: string; params: unknown }[] }));
vi.mock('~/jobs/job-center', () => ({
  jobs: {
    snapshot: () => new Map(),
    start: async (kind: string, install: string, params: unknown) => void started.push({ kind, install, params }),
  },
}));
vi.mock('~/places/can-change', () => ({
  canChange: async () => true,
  canRead: async () => true,
  askFor: async () => true,
}));
vi.mock('~/queries/client', async () => {
  const { questions } = await import('~/queries/questions');
  return {
    query: (question: keyof typeof questions, ...parameters: unknown[]) =>
      (questions[question] as (...parameters: unknown[]) => Promise<unknown>)(...parameters),
  };
});
vi.stubGlobal('structuredClone', cloneWithHandles);

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const MIST = asMod('mist');
let game: FileSystemDirectoryHandle;
let install: Install;
const now = (): Promise<Install> => getInstall('a');
const picked = (handle: FileSystemDirectoryHandle) => ({ kind: 'picked', name: handle.name, handle }) as const;
const served = (folder: string) => ({ kind: 'served', name: folder, root: '/games', folder }) as const;

/** A folder with some files in it, to be picked. */
async function folderWith(name: string, files: Record<string, string>): Promise<FileSystemDirectoryHandle> {
  const handle = pickable(name);
  for (const [path, text] of Object.entries(files)) await pickedFolder(handle).writeWhole(path, bytes(text));
  return handle;
}

const index: DepotIndex = {
  ...{ format: 'regressum-depot-index', version: 1, branches: [], depots: [], manifests: [], builds: [] },
  game: { id: 'g', title: 'G', rules: { program: 'p', modsFolder: 'mods', own: [] } },
};

beforeEach(async () => {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
  vi.stubGlobal('navigator', { storage: storageOf(new DirectoryHandle('')) });
  started.length = 0;
  game = await folderWith('game', { p: 'program', 'mods/mist/mist.dat': 'mist' });
  install = {
    ...{ id: 'a', game: 'g', title: 'A', folder: 'game', place: { kind: 'picked', handle: game }, tree: 't1' },
    ...{ profile: 'first', ownership: { language: 'x', addOns: [], optional: [] }, weights: [[MIST, 'must']] },
    ...{ changedAt: 0, arrived: true, lastVisit: { at: 1, builds: [] } },
  } as Install;
  await addInstall(install);
  await addGame({ ...index.game, sources: [{ kind: 'service', id: 's' }] });
  const catalogue = catalogueOf({ mist: [{ version: '1', builds: ['1'] }] });
  await putTold('g', 's', { index: { value: index }, catalogue: { value: catalogue } });
});
afterAll(() => vi.unstubAllGlobals());

describe('a folder outside the game’s', () => {
  it('is read before it is noted, has a name of its own, and is left alone again', async () => {
    const saves = await folderWith('My Saves', { 'one.sav': '1' });
    await pointAtElsewhere('a', 'saves', picked(saves));
    await pointAtElsewhere('a', 'settings', picked(await folderWith('conf', {})));
    const [one, two] = (await now()).elsewhere!;
    expect([one, two]).toMatchObject([
      { kind: 'saves', title: 'My Saves', at: { kind: 'picked', handle: saves } },
      { kind: 'settings', title: 'conf' },
    ]);
    expect(one!.name).toMatch(/^own[a-z]{10}$/);
    expect(one!.name).not.toBe(two!.name);
    await noteSynced('a', one!.name, true);
    expect((await now()).elsewhere!.map(({ synced }) => synced)).toEqual([true, undefined]);
    await noteSynced('a', one!.name, false);
    expect((await now()).elsewhere![0]).not.toHaveProperty('synced');
    await forgetElsewhere('a', one!.name);
    expect((await now()).elsewhere!.map(({ title }) => title)).toEqual(['conf']);
  });

  it('is neither handed over nor in the game’s folder', async () => {
    const handed = { kind: 'handed', name: 'x', files: new Map() } as const;
    await expect(pointAtElsewhere('a', 'saves', handed)).rejects.toMatchObject({ code: 'folder/gone' });
    await updateInstall('a', (was) => ({ ...was, place: { kind: 'served', root: '/games', folder: 'one' } }));
    for (const folder of ['one', 'one/saves'])
      await expect(pointAtElsewhere('a', 'saves', served(folder))).rejects.toMatchObject({
        ...{ code: 'folder/nested', facts: { path: folder } },
      });
    expect((await now()).elsewhere).toBeUndefined();
  });
});

describe('a folder that is followed', () => {
  const lists = async () => (await now()).followed!.map(({ each, waiting }) => ({ each, waiting }));

  it('has each folder in it as a mod where nothing else lies there, and tells what waits', async () => {
    const handle = await folderWith('workshop', { 'fog/a': '1', 'sky/b': '2' });
    await followFolder('a', picked(handle));
    expect(await lists()).toEqual([{ each: true, waiting: ['fog', 'sky'] }]);
    const { name } = (await now()).followed![0]!;
    const [view] = await followed('a');
    const [fog, sky] = view!.folders;
    expect([fog!.does, fog!.files, fog!.bytes]).toEqual(['new', 1, 1]);
    await decideFollowed('a', name, [{ folder: 'fog', state: fog!.state, releases: [[MIST, '1']] }]);
    await decideFollowed('a', name, [{ folder: 'sky', state: sky!.state }]);
    expect((await now()).followed![0]!.mods).toEqual([
      { folder: 'fog', state: fog!.state, releases: [[MIST, '1']] },
      { folder: 'sky', state: sky!.state, releases: [], isPassed: true },
    ]);
    expect((await lists())[0]!.waiting).toEqual([]);
    expect((await followed('a'))[0]!.folders.map(({ does }) => does)).toEqual(['same', 'passed']);

    // Each update is asked about under the name of what was taken, but for what is pinned to it.
    await pickedFolder(handle).writeWhole('fog/a', bytes('changed'));
    await followEach('a', name, true);
    expect((await now()).followed![0]!.mods).toEqual([]);
    await decideFollowed('a', name, [{ folder: 'fog', state: fog!.state, releases: [[MIST, '1']] }]);
    expect((await lists())[0]!.waiting).toEqual(['mist', 'sky']);
    await updateInstall('a', (was) => ({ ...was, pins: [[MIST, '1']] }));
    expect((await followed('a'))[0]!.folders[0]!.does).toBe('frozen');

    const read = await foldersToRead('a', { ...view!, name }, [fog!]);
    expect(read).toMatchObject([
      {
        ...{ followed: name, folder: 'fog', state: fog!.state, before: [], onDisk: `beside/${name}/fog` },
        from: { root: 'fog', name: 'workshop/fog', place: { kind: 'picked', handle } },
      },
    ]);
    await pickedFolder(handle).remove('fog');
    expect((await followed('a'))[0]!.folders.map(({ folder, does }) => [folder, does])).toEqual([
      ['sky', 'new'],
      ['fog', 'gone'],
    ]);
    await forgetGone('a', name, 'fog');
    expect((await followed('a'))[0]!.folders.map(({ folder }) => folder)).toEqual(['sky']);
    await stopFollowing('a', name);
    expect((await now()).followed).toEqual([]);
    await expect(foldersToRead('a', { ...view!, name }, [])).rejects.toMatchObject({ code: 'folder/gone' });
  });

  it('is one mod where files lie in it themselves', async () => {
    await followFolder('a', picked(await folderWith('fog', { 'a.dat': '1', 'deep/b.dat': '2' })));
    expect(await lists()).toEqual([{ each: false, waiting: ['fog'] }]);
    expect((await followed('a'))[0]!.folders).toMatchObject([{ folder: '', files: 2, bytes: 2 }]);
  });
});

describe('a copy of a folder', () => {
  const copying = { title: 'B', withOwn: true, moves: false } as const;

  it('has what was decided, its profiles and starts, and none of what only the first place knows', async () => {
    await putProfile({ install: 'a', id: 'calm', title: 'Calm', weights: [] });
    await addTrial({ install: 'a', at: 5, answer: { outcome: 'title', mods: [], log: [] } });
    await updateInstall('a', (was) => ({ ...was, record: { kind: 'disk', path: 'r' }, pools: [] }));
    const id = await copyInstall(await now(), { ...copying, to: picked(pickable('copy')) });
    const copy = await getInstall(id);
    expect(copy).toMatchObject({ title: 'B', folder: 'copy', weights: [[MIST, 'must']], tree: 't1' });
    for (const field of ['record', 'pools', 'lastVisit', 'toldTimes']) expect(copy).not.toHaveProperty(field);
    expect((await listProfiles(id)).map(({ title }) => title)).toEqual(['Calm', 'First']);
    expect(await listTrials(id)).toMatchObject([{ install: id, at: 5 }]);
    expect(started).toEqual([{ kind: 'copy-folder', install: id, params: { from: 'a', withOwn: true, moves: false } }]);
    const onDisk = await getInstall(await copyInstall(await now(), { ...copying, to: 'browser-disk', moves: true }));
    expect(onDisk).toMatchObject({ place: { kind: 'browser-disk' }, folder: 'B' });
  });

  it('is not made where a folder of the list lies, or where nothing can be written', async () => {
    await expect(copyInstall(install, { ...copying, to: picked(game) })).rejects.toMatchObject({
      ...{ code: 'source/exists', facts: { found: 'A' } },
    });
    const handed = { kind: 'handed', name: 'x', files: new Map() } as const;
    await expect(copyInstall(install, { ...copying, to: handed })).rejects.toMatchObject({ code: 'folder/gone' });
    expect(await listInstalls()).toHaveLength(1);
  });
});

describe('a folder that lies elsewhere now', () => {
  it('is looked at there, and what is known of it stays, where its store lies too', async () => {
    const store = pickable('drive');
    await updateInstall('a', (was) => ({ ...was, place: { kind: 'picked', handle: game, store } }));
    const moved = await folderWith('moved', { p: 'program' });
    await findAgain(install, picked(moved));
    expect(await now()).toMatchObject({ folder: 'moved', place: { handle: moved, store }, weights: [[MIST, 'must']] });
    expect(started).toMatchObject([{ kind: 'look', install: 'a' }]);
    // The same place again is no other folder's.
    await findAgain(await now(), picked(moved));
    await addInstall({ ...install, id: 'b', title: 'B', place: { kind: 'picked', handle: game } });
    await expect(findAgain(await now(), picked(game))).rejects.toMatchObject({ code: 'source/exists' });
  });
});

describe('the store of a picked folder', () => {
  it('moves to another folder, not into the game’s, and not over one that is there', async () => {
    const inside = await game.getDirectoryHandle('mods');
    await expect(placeStore('a', inside)).rejects.toMatchObject({ code: 'folder/nested', facts: { path: 'mods' } });
    await pickedFolder(game).writeWhole('regressum-store/journal/x/plan.dat', bytes('plan'));
    const drive = pickable('drive');
    await placeStore('a', drive);
    expect(started).toMatchObject([{ kind: 'move-store', params: { to: drive, files: 1, bytes: 4 } }]);
  });

  it('that lies there already is taken over where the present one has nothing', async () => {
    const drive = pickable('drive');
    await pickedFolder(drive, 'regressum-store-game').writeWhole('history/x.dat', bytes('{}'));
    await placeStore('a', drive);
    expect(await now()).toMatchObject({ place: { handle: game, store: drive } });
    expect(started).toEqual([]);
  });

  it('is only a picked folder’s', async () => {
    await updateInstall('a', (was) => ({ ...was, place: { kind: 'browser-disk' } }));
    await expect(placeStore('a', undefined)).rejects.toMatchObject({ code: 'folder/no-permission' });
  });
});

describe('a folder of depots', () => {
  const target = { build: asBuild('1'), releases: [], decidedBy: 'choice', at: 0 } as const;

  it('is looked through for what the target wants, and files are moved only within the server', async () => {
    await expect(bringDepotsOf('a', served('got'))).rejects.toMatchObject({ code: 'job/not-checked-out' });
    await updateInstall('a', (was) => ({ ...was, target }));
    await bringDepotsOf('a', served('got'), true);
    await bringDepotsOf('a', { kind: 'handed', name: 'x', files: new Map() }, true);
    await bringDepotsOf('a', picked(pickable('got')));
    await updateInstall('a', (was) => ({ ...was, place: { kind: 'served', root: '/games', folder: 'one' } }));
    await bringDepotsOf('a', served('got'), true);
    await bringDepotsOf('a', served('got'));
    expect(started.map(({ params }) => params)).toMatchObject([
      { target, from: { kind: 'served', root: '/games', folder: 'got' }, move: false },
      { from: { kind: 'handed', name: 'depots of a' }, move: false },
      { from: { kind: 'picked' }, move: false },
      { from: { kind: 'served' }, move: true },
      { from: { kind: 'served' }, move: false },
    ]);
  });

  it('is not the game’s own, nor in it, nor around it', async () => {
    const place = { kind: 'served', root: '/games', folder: 'deep/one' } as const;
    await updateInstall('a', (was) => ({ ...was, target, place }));
    for (const folder of ['deep/one', 'deep/one/got', 'deep'])
      await expect(bringDepotsOf('a', served(folder))).rejects.toMatchObject({ code: 'folder/nested' });
    await bringDepotsOf('a', { ...served('deep/one'), root: '/others' });
    await bringDepotsOf('a', served('deep/on'));
    expect(started).toHaveLength(2);
  });
});

describe('the log of the last start', () => {
  it('counts where the rules say that it lies, and it is not older than the folder’s last change', async () => {
    await expect(noteLastStart('a')).rejects.toMatchObject({ code: 'folder/not-found', facts: { path: 'log' } });
    const log = { file: 'last.log', up: 'ready$', version: '^Version (.*)$' };
    await updateGame('g', ({ rules, ...rest }) => ({ ...rest, rules: { ...rules, log } }));
    await expect(noteLastStart('a')).rejects.toMatchObject({ code: 'folder/not-found', facts: { path: 'last.log' } });
    await pickedFolder(game).writeWhole('last.log', bytes('Version 1\nall is ready\n'));
    const { modified } = (await pickedFolder(game).stat('last.log'))!;
    await updateInstall('a', (was) => ({ ...was, changedAt: modified + 2001 }));
    await expect(noteLastStart('a')).rejects.toMatchObject({ code: 'log/too-old', facts: { file: 'last.log' } });
    expect(await listTrials('a')).toEqual([]);
    await updateInstall('a', (was) => ({ ...was, changedAt: modified + 2000 }));
    await noteLastStart('a');
    // It is the start that was then, and the same one however often it is read.
    await noteLastStart('a');
    expect(await listTrials('a')).toMatchObject([{ at: modified, answer: { outcome: 'title', version: '1' } }]);
    // A copy has a time of its own: what its lines tell counts.
    const copy = bytes('1970-01-01T00:00:01Z Version 1\nall is ready\n');
    await expect(noteStart('a', copy, 'copy.log', Date.now())).rejects.toMatchObject({ code: 'log/too-old' });
    expect(await listTrials('a')).toHaveLength(1);
  });
});
