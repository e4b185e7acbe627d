import './testing/told';
import { differences, disk, folderFrom, GAME, here, imageOf, INSTALL, layOut } from '../jobs/testing/way';
import { TextReader, ZipWriter, BlobWriter } from '@zip.js/zip.js';
import { beforeAll, expect, it, vi } from 'vitest';
import { memoryFolder } from '#core/folders';
import * as stages from '~/queries/stages';
import { platformSha256 } from '~/remote/sha256';
import { getGame, removeGame } from '~/store/games';
import { getInstall, listInstalls, removeInstall, updateInstall } from '~/store/installs';
import type { DiskTask } from '~/workers';
import { backUp, restore } from '~/workers/backup-task';
import { backUpAll, lookIntoBackup, restoreBackup } from './backup';

/* What a browser keeps, as a file that another one takes in. */

const named = vi.hoisted((): { to: FileSystemFileHandle | undefined } => ({ to: undefined }));
vi.mock('./offers', () => ({ pickSaveFile: async () => named.to }));
vi.mock('./in-pool', () => ({
  inPool: (work: (pool: { run: typeof perform }) => Promise<unknown>) => work({ run: perform }),
}));

/** The browser disk by its two folders. */
let disks = new Map(['installs', 'store'].map((root) => [root, memoryFolder()]));

/** As a worker does it. */
function perform(task: DiskTask, going: Partial<Parameters<typeof backUpAll>[0]> = {}): Promise<unknown> {
  const ports = {
    diskAt: (root: string) => disks.get(root)!,
    sha256: platformSha256,
    signal: going.signal ?? new AbortController().signal,
    progress: (going.progress ?? (() => undefined)) as never,
  };
  if (task.do === 'backup') return backUp(task, ports);
  if (task.do === 'restore') return restore(task, ports);
  throw new Error(task.do);
}

const going = () => {
  const done = { files: 0, bytes: 0 };
  const progress = (some: typeof done): void => {
    done.files += some.files;
    done.bytes += some.bytes;
  };
  return { done, signal: new AbortController().signal, progress };
};

let file: File;
beforeAll(async () => {
  await layOut();
  for (const [path, bytes] of await imageOf(here()))
    await disks.get('installs')!.writeWhole(`${INSTALL}/${path}`, bytes);
});

it('where no file is named nothing is backed up', async () => {
  expect(await backUpAll(going())).toBeUndefined();
});

it('all of it comes back where nothing is known, and is told', async () => {
  const [before, install] = [await imageOf(disks.get('installs')!), await getInstall(INSTALL)];
  const { likeliest, onDisk } = await stages.frame(INSTALL);
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>>();
  const blob = new Response(readable).blob();
  named.to = { createWritable: async () => writable } as unknown as FileSystemFileHandle;
  const packing = going();
  const bytes = [...before.values()].reduce((sum, one) => sum + one.length, 0);
  expect(await backUpAll(packing)).toEqual({ files: before.size, bytes });
  expect(packing.done.files).toBeGreaterThanOrEqual(before.size);
  file = new File([await blob], 'backup.zip');

  // Here already, it stays as it is.
  expect((await lookIntoBackup(file)).folders).toEqual([{ id: INSTALL, title: install.title, isHere: true }]);
  await updateInstall(INSTALL, (now) => ({ ...now, title: 'Called otherwise since' }));
  await restoreBackup(await lookIntoBackup(file), going());
  expect((await listInstalls()).map(({ title }) => title)).toEqual(['Called otherwise since']);

  // Another browser has nothing of it.
  disks = new Map(['installs', 'store'].map((root) => [root, memoryFolder()]));
  await removeInstall(INSTALL);
  await removeGame(GAME);
  const offer = await lookIntoBackup(file);
  expect(offer).toMatchObject({ files: before.size, bytes, folders: [{ id: INSTALL, isHere: false }] });
  const restoring = going();
  await restoreBackup(offer, restoring);
  expect(restoring.done).toEqual({ files: before.size, bytes });
  const after = await imageOf(disks.get('installs')!);
  expect(differences(before, after)).toEqual([]);
  expect(await getInstall(INSTALL)).toEqual(install);
  expect((await getGame(GAME)).id).toBe(GAME);
  // What it says of the folder holds there, without reading it anew.
  disk.now = await folderFrom(new Map([...after].map(([path, own]) => [path.slice(INSTALL.length + 1), own])));
  expect(await stages.frame(INSTALL)).toMatchObject({ likeliest, onDisk });
});

it('that is of a later version is refused by name, and nothing comes of it', async () => {
  const writer = new ZipWriter(new BlobWriter());
  const text = JSON.stringify({ version: 2 });
  await writer.add('bag/bagit.txt', new TextReader('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'));
  await writer.add(
    'bag/manifest-sha256.txt',
    new TextReader(`${await platformSha256(new TextEncoder().encode(text))}  data/records.json\n`),
  );
  await writer.add('bag/data/records.json', new TextReader(text));
  const later = new File([await writer.close()], 'later.zip');
  const refused = { code: 'backup/newer', facts: { found: 2, expected: 1 } };
  await expect(lookIntoBackup(later)).rejects.toMatchObject(refused);
  const offer = { ...(await lookIntoBackup(file)), file: later };
  await expect(restoreBackup(offer, going())).rejects.toMatchObject(refused);
});
