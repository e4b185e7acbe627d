import {
  BlobReader,
  BlobWriter,
  TextReader,
  Uint8ArrayReader,
  Uint8ArrayWriter,
  ZipReader,
  ZipWriter,
} from '@zip.js/zip.js';
import { describe, expect, it } from 'vitest';
import { type Folder, memoryFolder } from '#core/folders';
import { platformSha256 } from '~/remote/sha256';
import { backUp, restore } from './backup-task';

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const RECORDS = JSON.stringify({ version: 1, said: 'what is known' });

type Disks = ReadonlyMap<string, Folder>;
const disks = (): Disks => new Map(['installs', 'store'].map((root) => [root, memoryFolder()]));

const portsOn = (here: Disks, signal = new AbortController().signal) => ({
  diskAt: (root: string): Folder => here.get(root)!,
  sha256: platformSha256,
  progress: () => undefined,
  signal,
});

async function filled(): Promise<Disks> {
  const here = disks();
  const [installs, store] = [here.get('installs')!, here.get('store')!];
  await installs.writeWhole('a1/trees/t1/game.prog', bytes('program '.repeat(400_000)));
  await installs.writeWhole('a1/record/record.dat', bytes('record'));
  await installs.setReadOnly('a1/record/record.dat', true);
  await installs.writeWhole('b2/trees/t1/x', bytes('another'));
  await store.writeWhole('contents/aa/aa.dat', bytes('a content'));
  return here;
}

/** What a browser gives for a file that was named to be written. */
function fileHandle(): { handle: FileSystemFileHandle; file(): Promise<File>; aborted(): boolean } {
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>>();
  const blob = new Response(readable).blob();
  let aborted = false;
  blob.catch(() => (aborted = true));
  const handle = { createWritable: async () => writable } as unknown as FileSystemFileHandle;
  return { handle, file: async () => new File([await blob], 'backup.zip'), aborted: () => aborted };
}

async function backupOf(here: Disks): Promise<File> {
  const { handle, file } = fileHandle();
  const info = { what: 'backup' as const, date: '2026-11-26T00:00:00.000Z', folders: ['One', 'Two'] };
  await backUp({ do: 'backup', to: handle, name: 'bag', info, records: RECORDS }, portsOn(here));
  return file();
}

async function pictureOf(here: Disks): Promise<Record<string, string>> {
  const all: [string, string][] = [];
  for (const [root, disk] of here)
    for (const { path } of await disk.list())
      all.push([`${root}/${path}`, new TextDecoder().decode(await disk.read(path))]);
  return Object.fromEntries(all);
}

/** The same archive with some of its files replaced, left out or added. */
async function changed(
  file: File,
  change: (path: string, content: Uint8Array) => Uint8Array | undefined,
  added: Readonly<Record<string, string>> = {},
): Promise<File> {
  const writer = new ZipWriter(new BlobWriter());
  for (const entry of await new ZipReader(new BlobReader(file)).getEntries()) {
    if (entry.directory) continue;
    const content = change(entry.filename, await entry.getData(new Uint8ArrayWriter()));
    if (content) await writer.add(entry.filename, new Uint8ArrayReader(content));
  }
  for (const [path, text] of Object.entries(added)) await writer.add(path, new TextReader(text));
  return new File([await writer.close()], 'changed.zip');
}

const restoring = (from: File, here: Disks, installs: string[] | undefined, signal?: AbortSignal) =>
  restore({ do: 'restore', from, installs }, portsOn(here, signal));

describe('a backup of the browser disk', () => {
  it('brings back what it was made of, flags too, and only the folders that are asked for', async () => {
    const before = await filled();
    const file = await backupOf(before);
    const look = await restoring(file, disks(), undefined);
    expect(JSON.parse(look.records)).toMatchObject({ said: 'what is known' });
    expect(look.files).toBe(4);
    const all = disks();
    await restoring(file, all, ['a1', 'b2']);
    expect(await pictureOf(all)).toEqual(await pictureOf(before));
    expect(await all.get('installs')!.isReadOnly('a1/record/record.dat')).toBe(true);
    const one = disks();
    await restoring(file, one, ['b2']);
    expect(Object.keys(await pictureOf(one)).sort()).toEqual(['installs/b2/trees/t1/x', 'store/contents/aa/aa.dat']);
  });

  it('leaves what lies there as it is, and goes on after it was cut off', async () => {
    const file = await backupOf(await filled());
    const here = disks();
    await here.get('store')!.writeWhole('contents/aa/aa.dat', bytes('what lay here'));
    await here.get('installs')!.writeWhole('a1/trees/t1/game.prog.restoring', bytes('half'));
    const stop = new AbortController();
    stop.abort();
    await expect(restoring(file, here, ['a1'], stop.signal)).rejects.toThrow('job/cancelled');
    await restoring(file, here, ['a1']);
    const picture = await pictureOf(here);
    expect(picture['store/contents/aa/aa.dat']).toBe('what lay here');
    expect(picture['installs/a1/trees/t1/game.prog']).toBe('program '.repeat(400_000));
    expect(Object.keys(picture)).not.toContain('installs/a1/trees/t1/game.prog.restoring');
  });

  it.each<[string, (file: File) => Promise<File>, string]>([
    ['is no archive', async () => new File(['no archive'], 'x.zip'), 'backup/malformed'],
    [
      'has no checksums',
      (file) => changed(file, (path, some) => (path.endsWith('manifest-sha256.txt') ? undefined : some)),
      'backup/malformed',
    ],
    [
      'misses a file',
      (file) => changed(file, (path, some) => (path.endsWith('aa.dat') ? undefined : some)),
      'backup/malformed',
    ],
    [
      'has a damaged one',
      (file) => changed(file, (path, some) => (path.endsWith('/x') ? bytes('anothes') : some)),
      'backup/malformed',
    ],
    [
      'says something else of itself than it was made with',
      (file) => changed(file, (path, some) => (path.endsWith('bag-info.txt') ? bytes('Regressum-Folder: x\n') : some)),
      'backup/malformed',
    ],
    [
      'climbs out',
      (file) =>
        changed(
          file,
          (path, some) =>
            path.endsWith('/tagmanifest-sha256.txt')
              ? undefined
              : path.endsWith('/manifest-sha256.txt')
                ? bytes(`${new TextDecoder().decode(some)}${'0'.repeat(64)}  data/installs/../../evil\n`)
                : some,
          { 'bag/data/installs/../../evil': 'evil' },
        ),
      'backup/malformed',
    ],
  ])('that %s is refused by name, and nothing wrong is put down', async (_, spoil, code) => {
    const here = disks();
    const file = await spoil(await backupOf(await filled()));
    await expect(restoring(file, here, ['a1', 'b2'])).rejects.toMatchObject({ code });
    expect(Object.keys(await pictureOf(here))).not.toContain('installs/b2/trees/t1/x');
  });
});
