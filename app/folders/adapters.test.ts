import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { IN_GAME } from '#core/keepsakes';
import type { Folder } from '#core/folders';
import { filled, FOLDER_CONTRACT, type FolderContents, READER_CONTRACT } from '../../core/testing/folder-contract';
import { asInWorker, DirectoryHandle, pickable, storageOf } from '../testing/platform-handles';

/* The adapters of the browser on handles in memory, each held to the contract at every place that it puts something. */

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const textOf = async (folder: Pick<Folder, 'read'>, path: string): Promise<string> =>
  new TextDecoder().decode(await folder.read(path));

beforeEach(() => {
  vi.stubGlobal('navigator', { storage: storageOf(new DirectoryHandle('')) });
});
afterAll(() => {
  asInWorker(false);
  vi.unstubAllGlobals();
});

/** What lies below a path of a folder, as a folder of its own. */
function inside(folder: Folder, prefix: string, can = folder.can): Folder {
  const at = (path: string): string => (path === '' ? prefix : `${prefix}/${path}`);
  const named = <T extends { path: string }>(entry: T): T => ({ ...entry, path: entry.path.slice(prefix.length + 1) });
  return {
    ...folder,
    can,
    list: async (path = '', listener) => (await folder.list(at(path), listener)).map(named),
    stat: async (path) => {
      const entry = await folder.stat(at(path));
      return entry && named(entry);
    },
    open: (path, size) => folder.open(at(path), size),
    read: (path, start, end) => folder.read(at(path), start, end),
    writeWhole: (path, some) => folder.writeWhole(at(path), some),
    writeAt: (path, offset, some) => folder.writeAt(at(path), offset, some),
    copy: (from, to) => folder.copy(at(from), at(to)),
    move: (from, to) => folder.move(at(from), at(to)),
    remove: (path) => folder.remove(at(path)),
    sync: (paths) => folder.sync(paths.map(at)),
    setReadOnly: (path, readOnly) => folder.setReadOnly(at(path), readOnly),
    setModified: (path, modified) => folder.setModified(at(path), modified),
    isReadOnly: (path) => folder.isReadOnly(at(path)),
  };
}

async function loadAs(isInWorker: boolean) {
  vi.resetModules();
  asInWorker(isInWorker);
  return {
    ...(await import('.')),
    ...(await import('../../core/testing/memory-disk')),
    // It knows the failures of just these.
    contract: await import('../../core/testing/folder-contract'),
  };
}
type Adapters = Awaited<ReturnType<typeof loadAs>>;

/** The adapters as a page loads them, and as a worker does. */
const inPage = await loadAs(false);
const inWorker = await loadAs(true);
const adapters = (isInWorker: boolean): Adapters => (isInWorker ? inWorker : inPage);

const picked = (handle = pickable('game')) => ({ kind: 'picked', handle, disk: 'installs/i', tree: 't1' }) as const;

const PLACES: Record<string, (of: Adapters) => Folder> = {
  'the browser disk': ({ browserDisk }) => browserDisk('some/where'),
  'an install’s disk': ({ installFolder }) => installFolder('installs/i'),
  'what installs share': ({ installFolder }) => inside(installFolder('installs/i'), 'contents'),
  'a picked folder': ({ pickedFolder }) => pickedFolder(pickable('game')),
  'a folder in a picked one': ({ pickedFolder }) => pickedFolder(pickable('game'), 'store'),
  'the game in a picked folder': ({ pickedDisk }) => inside(pickedDisk(picked()), 'trees/t1'),
  'the store in a picked folder': ({ pickedDisk }) => inside(pickedDisk(picked()), 'journal'),
  'the contents of a picked folder': ({ pickedDisk }) => inside(pickedDisk(picked()), 'arriving'),
  'a store in another picked folder': ({ pickedDisk }) =>
    inside(pickedDisk({ ...picked(), store: pickable('drive') }), 'journal'),
  'a folder beside a disk': ({ memoryDisk, pickedDisk, withBeside }) =>
    inside(withBeside(memoryDisk('t1'), { own: picked() }), 'beside/own', pickedDisk(picked()).can),
  'a disk that has folders beside it': ({ memoryDisk, withBeside }) => withBeside(memoryDisk('t1'), { own: picked() }),
};

describe.each([false, true])('in a worker: %s', (isInWorker) => {
  describe.each(Object.entries(PLACES))('%s', (_, make) => {
    it.each(READER_CONTRACT.map(({ name }, i) => [name, i] as const))('%s', async (_name, i) => {
      const of = adapters(isInWorker);
      const { hold } = of.contract.READER_CONTRACT[i]!;
      let made = 0;
      await hold(async (files: FolderContents) => {
        if (made++ > 0) vi.stubGlobal('navigator', { storage: storageOf(new DirectoryHandle('')) });
        return filled(make(of), files);
      });
    });
    it.each(FOLDER_CONTRACT.map(({ name }, i) => [name, i] as const))('%s', async (_name, i) => {
      const of = adapters(isInWorker);
      await of.contract.FOLDER_CONTRACT[i]!.hold(make(of));
    });
  });
});

describe('the browser disk', () => {
  it('never shows half a file, nor what says that one is read-only, and gives files to other disks', async () => {
    const { browserDisk } = adapters(true);
    const [one, other] = [browserDisk('one'), browserDisk('other')];
    await one.writeWhole('a/b', bytes('first'));
    await one.setReadOnly('a/b', true);
    expect((await one.list()).map(({ path }) => path)).toEqual(['a/b']);
    for (const change of [
      one.writeWhole('a/b', bytes('x')),
      one.writeAt('a/b', 0, bytes('x')),
      one.move('a/b', 'c'),
      one.remove('a/b'),
      one.moveTo('a/b', other, 'c'),
    ])
      await expect(change).rejects.toMatchObject({ code: 'folder/read-only', facts: { path: 'a/b' } });
    await one.setReadOnly('a/b', false);
    await one.moveTo('a/b', other, 'deep/c');
    expect([await one.list(), await textOf(other, 'deep/c')]).toEqual([[], 'first']);
    await other.put('deep/c', new Blob(['second']));
    expect(await (await other.fileOf('deep/c')).text()).toBe('second');
    expect(await other.room()).toEqual({ used: 10, free: 90 });
  });

  it('finds a folder that somebody has made anew, and reads a large file straight', async () => {
    const { browserDisk } = adapters(true);
    const [here, elsewhere] = [browserDisk('one'), browserDisk('one')];
    await here.writeWhole('a/b', bytes('first'));
    await elsewhere.remove('a');
    await elsewhere.writeWhole('a/b', bytes('second'));
    expect(await textOf(here, 'a/b')).toBe('second');
    const large = new Uint8Array(300_000).fill(7);
    await here.writeWhole('large', large);
    for (const likelySize of [0, 300_000]) {
      const file = await here.open('large', likelySize);
      const into = new Uint8Array(10);
      expect([file.size, (await file.read(299_995, 300_010, into)).length, into[4], into[5]]).toEqual([
        300_000, 5, 7, 0,
      ]);
      file.close();
    }
  });
});

describe('an install’s disk', () => {
  it('has its trees for itself and its contents with the others, says which tree counts, and goes alone', async () => {
    const { browserDisk, dropDisk, installDisk } = adapters(true);
    const [one, two] = [installDisk('one', 't1'), installDisk('two', 't1')];
    await one.writeWhole('trees/t1/a', bytes('of one'));
    await one.move('trees/t1/a', 'contents/xx/a');
    expect([await textOf(two, 'contents/xx/a'), await one.list('trees')]).toEqual(['of one', []]);
    await two.copy('contents/xx/a', 'trees/t1/b');
    expect(await textOf(browserDisk('installs/two'), 'trees/t1/b')).toBe('of one');
    expect(await one.current()).toBe('t1');
    await one.exchange('t1', 't2');
    expect([await one.current(), await installDisk('one', 't1').current(), await two.current()]).toEqual([
      't2',
      't2',
      't1',
    ]);
    await dropDisk('two');
    expect([await two.list(), await textOf(one, 'contents/xx/a')]).toEqual([[], 'of one']);
  });
});

describe('a picked folder', () => {
  it('has its store hidden from the game, its one tree, and contents on the browser’s own disk', async () => {
    const { browserDisk, copyStore, dropStore, pickedDisk, pickedFolder } = adapters(true);
    const place = picked();
    const disk = pickedDisk(place);
    await disk.writeWhole('trees/t1/a', bytes('game'));
    await disk.writeWhole('journal/s/plan.dat', bytes('plan'));
    await disk.writeWhole('arriving/x', bytes('content'));
    expect((await pickedFolder(place.handle).list()).map(({ path }) => path)).toEqual(['a']);
    expect((await disk.list()).map(({ path }) => path)).toEqual(['journal/s/plan.dat']);
    expect((await disk.list('trees/t1')).map(({ path }) => path)).toEqual(['trees/t1/a']);
    expect(await textOf(browserDisk('installs/i'), 'arriving/x')).toBe('content');
    // From one kind of place to another, and never into the store by the game's door.
    await disk.copy('trees/t1/a', 'staged/s/0.dat');
    await disk.move('arriving/x', 'trees/t1/deep/x');
    expect([await textOf(disk, 'staged/s/0.dat'), await textOf(disk, 'trees/t1/deep/x')]).toEqual(['game', 'content']);
    expect(await disk.stat('arriving/x')).toBeUndefined();
    expect(() => disk.read('trees/t1/regressum-store/journal/s/plan.dat')).toThrow('folder/no-permission');
    expect(await disk.current()).toBe('t1');
    await expect(disk.exchange('t1', 't2')).rejects.toMatchObject({ code: 'changes/superseded' });
    await expect(disk.setReadOnly('trees/t1/a', true)).rejects.toMatchObject({ code: 'folder/no-permission' });

    const drive = pickable('drive');
    const told: unknown[] = [];
    const { signal } = new AbortController();
    await copyStore(place, drive, { signal, progress: (done) => told.push(done) });
    expect(told).toEqual([
      { files: 1, bytes: 4 },
      { files: 1, bytes: 4 },
    ]);
    const moved = pickedDisk({ ...place, store: drive });
    await dropStore(place);
    expect(await textOf(moved, 'journal/s/plan.dat')).toBe('plan');
    expect(await disk.list()).toEqual([]);
    expect((await pickedFolder(place.handle).list()).map(({ path }) => path)).toEqual(['a', 'deep/x']);
    await copyStore({ handle: place.handle, store: drive }, undefined, { signal, progress: () => undefined });
    expect(await textOf(disk, 'staged/s/0.dat')).toBe('game');
    const stopped = copyStore(place, drive, { signal: AbortSignal.abort(), progress: () => undefined });
    await expect(stopped).rejects.toMatchObject({ code: 'job/cancelled' });
  });
});

describe('folders beside a disk', () => {
  it('are read and changed by their names, in copies from one to the other, and one that is handed over is read alone', async () => {
    const { memoryDisk, openBeside, servedOnes, withBeside } = adapters(true);
    const inner = memoryDisk('t1');
    const handed = { kind: 'handed', files: new Map([['h', new File(['given'], 'h')]]) } as const;
    const places = { own: picked(), given: handed };
    const disk = withBeside(inner, places);
    await inner.writeWhole('trees/t1/a', bytes('game'));
    await disk.copy('trees/t1/a', 'beside/own/a');
    await disk.copy('beside/own/a', 'beside/own/b');
    await disk.copy('beside/given/h', 'contents/h');
    await disk.move('beside/own/b', 'trees/t1/b');
    expect([
      await textOf(disk, 'beside/own/a'),
      await textOf(inner, 'contents/h'),
      await textOf(inner, 'trees/t1/b'),
    ]).toEqual(['game', 'given', 'game']);
    await disk.move('trees/t1/b', 'beside/own/c');
    expect((await disk.list('beside/own')).map(({ path }) => path)).toEqual(['beside/own/a', 'beside/own/c']);
    expect(await inner.stat('trees/t1/b')).toBeUndefined();
    for (const change of [
      () => disk.copy('trees/t1/a', 'beside/given/x'),
      () => disk.remove('beside/given/h'),
      () => disk.writeWhole('beside/given/x', bytes('')),
      () => disk.move('beside/given/h', 'x'),
    ])
      await expect(change()).rejects.toMatchObject({ code: 'folder/no-permission' });
    expect(await disk.isReadOnly('beside/given/h')).toBe(false);
    expect(withBeside(inner, {})).toBe(inner);
    const opened = await openBeside(inner, places).open('beside/given/h');
    expect(opened.size).toBe(5);
    const served = { kind: 'served', root: '/r', folder: 'f', token: 't' } as const;
    expect(servedOnes({ ...places, far: served, kept: { ...served, contents: true } })).toEqual({
      far: { root: '/r', folder: 'f' },
      kept: { root: '/r', folder: 'f', contents: true },
    });
  });

  it('that change while they are copied are no copy', async () => {
    const { memoryDisk, withBeside } = adapters(true);
    const shrinking = { ...picked() };
    const disk = withBeside(memoryDisk('t1'), { [IN_GAME]: shrinking });
    await disk.writeWhole(`beside/${IN_GAME}/empty`, new Uint8Array(0));
    await disk.copy(`beside/${IN_GAME}/empty`, 'contents/empty');
    expect((await disk.stat('contents/empty'))?.size).toBe(0);
  });
});
