import { isFailure, type FailureCode } from '#core/failure';
import type { Folder, FolderReader } from '#core/folders';

export type FolderContents = Readonly<Record<string, Uint8Array<ArrayBuffer>>>;

/** One promise of reading; `make` gives a folder that holds just these files. Throws where it is broken. */
export interface ReaderPromise {
  readonly name: string;
  readonly hold: (make: (files: FolderContents) => Promise<FolderReader>) => Promise<void>;
}

/** One promise of writing, kept on a folder that is empty when it starts. Throws where it is broken. */
export interface FolderPromise {
  readonly name: string;
  readonly hold: (folder: Folder) => Promise<void>;
}

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const text = async (folder: FolderReader, path: string): Promise<string> =>
  new TextDecoder().decode(await folder.read(path));

function same(found: unknown, expected: unknown): void {
  const [a, b] = [JSON.stringify(found), JSON.stringify(expected)];
  if (a !== b) throw new Error(`found ${a}, expected ${b}`);
}

async function refuses(work: Promise<unknown>, code: FailureCode): Promise<void> {
  const error = await work.then(
    () => undefined,
    (reason: unknown) => reason,
  );
  if (!isFailure(error, code)) throw new Error(`expected ${code}, found ${String(error)}`);
}

/** What every adapter that reads holds to, be it able to write or not. */
export const READER_CONTRACT: readonly ReaderPromise[] = [
  {
    name: 'lists every file below a folder, sorted, with its size',
    async hold(make) {
      const folder = await make({ 'b/two': bytes('22'), 'b/deep/er': bytes('333'), a: bytes('1') });
      same(
        (await folder.list()).map(({ path, size }) => [path, size]),
        [
          ['a', 1],
          ['b/deep/er', 3],
          ['b/two', 2],
        ],
      );
      same(
        (await folder.list('b')).map(({ path }) => path),
        ['b/deep/er', 'b/two'],
      );
      same(await folder.list('nowhere'), []);
      same((await folder.stat('b/two'))?.size, 2);
      same(await folder.stat('b/three'), undefined);
    },
  },
  {
    name: 'reads a range, and less where the file ends',
    async hold(make) {
      const folder = await make({ 'x/a': bytes('0123456789'), empty: bytes('') });
      same(new TextDecoder().decode(await folder.read('x/a', 2, 5)), '234');
      same(new TextDecoder().decode(await folder.read('x/a', 8, 50)), '89');
      same((await folder.read('empty')).length, 0);
      const open = await folder.open('x/a');
      const memory = new Uint8Array(16).fill(1);
      same(new TextDecoder().decode(await open.read(2, 5, memory)), '234');
      same(new TextDecoder().decode(await open.read(8, 24, memory)), '89');
      open.close();
      await refuses(folder.read('x/b'), 'folder/not-found');
      await refuses(folder.read('b'), 'folder/not-found');
    },
  },
  {
    name: 'opens a file, and reads what it asks for in any order, also while it is open twice',
    async hold(make) {
      const size = 3 * (1 << 20) + 5;
      const folder = await make({ large: Uint8Array.from({ length: size }, (_, i) => i % 251) });
      const [one, two] = await Promise.all([folder.open('large'), folder.open('large')]);
      same(one.size, size);
      same([...(await two.read(size - 2, size + 9))], [(size - 2) % 251, (size - 1) % 251]);
      const memory = new Uint8Array(1 << 20).fill(255);
      same([...(await two.read(size - 2, size + 9, memory))], [(size - 2) % 251, (size - 1) % 251]);
      same([...(await one.read(1 << 20, (1 << 20) + 2))], [(1 << 20) % 251, ((1 << 20) + 1) % 251]);
      one.close();
      two.close();
      await refuses(folder.open('nothing'), 'folder/not-found');
    },
  },
];

/** Fills a folder that can be written, and is empty, for the promises of reading. */
export async function filled(folder: Folder, files: FolderContents): Promise<Folder> {
  for (const [path, content] of Object.entries(files)) await folder.writeWhole(path, content);
  return folder;
}

/** What every adapter that writes holds to besides. */
export const FOLDER_CONTRACT: readonly FolderPromise[] = [
  {
    name: 'replaces a file whole',
    async hold(folder) {
      await folder.writeWhole('x/a', bytes('a long text'));
      const open = await folder.open('x/a');
      same((await open.read(0, 6)).length, 6);
      open.close();
      await folder.writeWhole('x/a', bytes('short'));
      same(await text(folder, 'x/a'), 'short');
      same((await folder.stat('x/a'))?.size, 5);
    },
  },
  {
    name: 'writes at an offset and fills the gap with zeros',
    async hold(folder) {
      await folder.writeAt('a', 3, bytes('xyz'));
      await folder.writeAt('a', 0, bytes('A'));
      same([...(await folder.read('a'))], [65, 0, 0, 120, 121, 122]);
    },
  },
  {
    name: 'moves a file over an existing one, and into a new folder',
    async hold(folder) {
      await folder.writeWhole('a', bytes('new'));
      await folder.writeWhole('b', bytes('old'));
      await folder.move('a', 'b');
      await folder.move('b', 'c/d');
      same(
        (await folder.list()).map(({ path }) => path),
        ['c/d'],
      );
      same(await text(folder, 'c/d'), 'new');
      await refuses(folder.move('nothing', 'e'), 'folder/not-found');
    },
  },
  {
    name: 'copies a file whole, over an existing one too, and leaves the first as it was',
    async hold(folder) {
      await folder.writeWhole('a', bytes('one'));
      await folder.writeWhole('deep/b', bytes('something longer'));
      await folder.copy('a', 'deep/b');
      await folder.copy('a', 'new/c');
      await folder.sync(['deep/b', 'new/c']);
      await folder.writeWhole('a', bytes('two'));
      same(await Promise.all(['a', 'deep/b', 'new/c'].map((path) => text(folder, path))), ['two', 'one', 'one']);
      same((await folder.list()).length, 3);
      await refuses(folder.copy('nothing', 'e'), 'folder/not-found');
    },
  },
  {
    name: 'removes a file or a folder with all in it, and does not mind what is missing',
    async hold(folder) {
      await folder.writeWhole('a/b/c', bytes('1'));
      await folder.writeWhole('a/d', bytes('1'));
      await folder.remove('a/d');
      same(
        (await folder.list()).map(({ path }) => path),
        ['a/b/c'],
      );
      await folder.remove('a');
      await folder.remove('a');
      same(await folder.list(), []);
      same(await folder.stat('a/b/c'), undefined);
      await folder.writeWhole('a/b/c', bytes('again'));
      same(await text(folder, 'a/b/c'), 'again');
      await folder.writeWhole('d', bytes('1'));
      await folder.remove('');
      same(await folder.list(), []);
      await folder.writeWhole('e', bytes('1'));
      same((await folder.list()).length, 1);
    },
  },
  {
    name: 'keeps the time of a file that is moved or copied, where a file can be given one',
    async hold(folder) {
      if (!folder.can.times) return refuses(folder.setModified('a', 1), 'folder/no-permission');
      const time = Date.UTC(2001, 8, 9, 1, 46, 40);
      await folder.writeWhole('a', bytes('old'));
      await folder.setModified('a', time);
      await folder.copy('a', 'b/copy');
      await folder.move('a', 'b/moved');
      same(
        (await folder.list()).map(({ path, modified }) => [path, modified]),
        [
          ['b/copy', time],
          ['b/moved', time],
        ],
      );
    },
  },
  {
    name: 'leaves a read-only file as it is, and shows no sign of the flag in its list',
    async hold(folder) {
      if (!folder.can.readOnlyFlag) return;
      await folder.writeWhole('a', bytes('kept'));
      await folder.writeWhole('b', bytes('other'));
      await folder.setReadOnly('a', true);
      same(await folder.isReadOnly('a'), true);
      await refuses(folder.writeWhole('a', bytes('new')), 'folder/read-only');
      await refuses(folder.writeAt('a', 0, bytes('n')), 'folder/read-only');
      await refuses(folder.move('b', 'a'), 'folder/read-only');
      await refuses(folder.remove('a'), 'folder/read-only');
      same(
        (await folder.list()).map(({ path }) => path),
        ['a', 'b'],
      );
      await folder.setReadOnly('a', false);
      await folder.writeWhole('a', bytes('new'));
      same(await text(folder, 'a'), 'new');
    },
  },
];
