import { describe, expect, it } from 'vitest';
import { Failure } from '#core/failure';
import { mergeFiles } from './merge-task';
import type { MergeTask, MergeWish } from './protocol';

/* Files of mods as a worker merges them. */

const utf8 = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const BASE = 'id,toll\na,1\nb,2\n';

/** Files that lie on a disk, and what is read of them. */
function onDisk(files: Readonly<Record<string, Uint8Array<ArrayBuffer>>>, signal = new AbortController().signal) {
  const [read, told]: [string[], number[]] = [[], []];
  const ports = {
    signal,
    progress: (news: unknown) => void told.push((news as { bytes: number }).bytes),
    from: {
      read: async (path: string, start = 0, end = Infinity) => {
        read.push(path);
        const bytes = files[path];
        if (!bytes) throw new Failure('folder/not-found', { path });
        return bytes.slice(start, end);
      },
    },
  };
  return { ports, read, told };
}

const wish = (path: string, three = ['base', 'ours', 'theirs'], more: Partial<MergeWish['hints']> = {}): MergeWish => ({
  ...{ path, hints: { path, ...more } },
  three: three.map((at) => ({ at, size: 100 })) as unknown as MergeWish['three'],
});
const task = (...files: readonly MergeWish[]): MergeTask => ({
  ...{ do: 'merge', place: { kind: 'browser-disk', disk: 'd' }, files },
  ...{ decided: [], rules: [] },
});

const FILES = {
  base: utf8(BASE),
  ours: utf8(BASE.replace('a,1', 'a,9')),
  theirs: utf8(BASE.replace('b,2', 'b,5')),
  other: utf8(BASE.replace('a,1', 'a,7')),
  binary: Uint8Array.from([1, 0, 2]),
};

describe('files of a mod', () => {
  it('are merged in their order, with what became of each and how far it is from what it was made from', async () => {
    const { ports, told } = onDisk(FILES);
    const wishes = [
      wish('one.csv'),
      wish('two.csv', ['base', 'ours', 'other']),
      wish('three.csv', ['base', 'base', 'theirs']),
    ];
    const { files } = await mergeFiles(task(...wishes), ports);
    expect(files.map(({ path, kind, key, columns }) => [path, kind, key, columns])).toEqual(
      ['one.csv', 'two.csv', 'three.csv'].map((path) => [path, 'table', ['id'], ['id', 'toll']]),
    );
    expect(files.map(({ count, distance }) => [count.clean, count.open, distance])).toEqual([
      [2, 0, 1],
      [0, 1, 1],
      [1, 0, 0],
    ]);
    expect(files.map(({ merged }) => merged && new TextDecoder().decode(merged))).toEqual([
      'id,toll\na,9\nb,5\n',
      undefined,
      BASE.replace('b,2', 'b,5'),
    ]);
    expect(told).toEqual([300, 300, 300]);
  });

  it('that nothing explains are left as they are, and one in an encoding that has not the other’s signs says so', async () => {
    const latin = Uint8Array.from(BASE.replace('a,1', '\xe4,9'), (sign) => sign.charCodeAt(0));
    const { ports } = onDisk({ ...FILES, latin, polish: utf8(BASE.replace('b,2', 'b,Łódź')) });
    const wishes = [wish('a.bin', ['binary', 'binary', 'base']), wish('b.csv', ['base', 'latin', 'polish'])];
    const { files } = await mergeFiles(task(...wishes), ports);
    expect(files.map(({ kind, merged, failure }) => [kind, merged, failure?.code])).toEqual([
      [undefined, undefined, undefined],
      [undefined, undefined, 'merge/encoding'],
    ]);
  });

  it('are read one ahead: one that is gone ends it in its turn, not before', async () => {
    const { ports, read, told } = onDisk(FILES);
    const wishes = [wish('one.csv'), wish('two.csv', ['base', 'gone', 'theirs'])];
    await expect(mergeFiles(task(...wishes), ports)).rejects.toThrow(
      expect.objectContaining({ code: 'folder/not-found', facts: { path: 'gone' } }),
    );
    expect(told).toEqual([300]);
    expect(read).toHaveLength(6);
  });

  it('are left where it is called off', async () => {
    const controller = new AbortController();
    controller.abort();
    const { ports, told } = onDisk(FILES, controller.signal);
    await expect(mergeFiles(task(wish('one.csv')), ports)).rejects.toThrow();
    expect(told).toEqual([]);
    expect(await mergeFiles(task(), onDisk(FILES).ports)).toEqual({ files: [] });
  });
});
