import { isFailure, type FailureCode } from '#core/failure';
import type { Folder } from './folder';

/** One promise that every adapter keeps, on a folder that is empty when it starts. Throws where it is broken. */
export interface FolderPromise {
  readonly name: string;
  readonly hold: (folder: Folder) => Promise<void>;
}

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const text = async (folder: Folder, path: string): Promise<string> => new TextDecoder().decode(await folder.read(path));

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

/** What every folder adapter holds to; run on each of them by its own tests. */
export const FOLDER_CONTRACT: readonly FolderPromise[] = [
  {
    name: 'lists every file below a folder, sorted, with its size',
    async hold(folder) {
      await folder.writeWhole('b/two', bytes('22'));
      await folder.writeWhole('b/deep/er', bytes('333'));
      await folder.writeWhole('a', bytes('1'));
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
    },
  },
  {
    name: 'reads a range, and less where the file ends',
    async hold(folder) {
      await folder.writeWhole('a', bytes('0123456789'));
      same(new TextDecoder().decode(await folder.read('a', 2, 5)), '234');
      same(new TextDecoder().decode(await folder.read('a', 8, 50)), '89');
      await refuses(folder.read('b'), 'folder/not-found');
    },
  },
  {
    name: 'opens a file, and reads what it asks for in any order, also while it is open twice',
    async hold(folder) {
      const size = 3 * (1 << 20) + 5;
      await folder.writeWhole(
        'large',
        Uint8Array.from({ length: size }, (_, i) => i % 251),
      );
      const [one, two] = await Promise.all([folder.open('large'), folder.open('large')]);
      same(one.size, size);
      same([...(await two.read(size - 2, size + 9))], [(size - 2) % 251, (size - 1) % 251]);
      same([...(await one.read(1 << 20, (1 << 20) + 2))], [(1 << 20) % 251, ((1 << 20) + 1) % 251]);
      one.close();
      two.close();
      await folder.writeWhole('large', bytes('small now'));
      same(await text(folder, 'large'), 'small now');
      await refuses(folder.open('nothing'), 'folder/not-found');
    },
  },
  {
    name: 'replaces a file whole',
    async hold(folder) {
      await folder.writeWhole('x/a', bytes('a long text'));
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
