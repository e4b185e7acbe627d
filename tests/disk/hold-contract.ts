import { browserDisk } from '../../app/folders/browser-disk';
import { filled, FOLDER_CONTRACT, type FolderContents, READER_CONTRACT } from '../../core/testing/folder-contract';
import type { FolderReader } from '#core/folders';
import { handedFolder } from '../../app/folders/handed-folder';
import { pickedFolder } from '../../app/folders/picked-folder';

type Make = (root: string, files: FolderContents) => Promise<FolderReader>;

async function handleOf(root: string): Promise<FileSystemDirectoryHandle> {
  let handle = await navigator.storage.getDirectory();
  for (const part of root.split('/')) handle = await handle.getDirectoryHandle(part, { create: true });
  return handle;
}

const READERS: Record<string, Make> = {
  'browser disk': (root, files) => filled(browserDisk(root), files),
  // A folder of the private disk has the same interface as one that a person picks, which no test can do by itself.
  'picked folder': async (root, files) => {
    await filled(browserDisk(root), files);
    return pickedFolder(await handleOf(root));
  },
  'handed folder': async (_, files) =>
    handedFolder(new Map(Object.entries(files).map(([path, bytes]) => [path, new File([bytes], path)]))),
};

/** Holds the adapters to their contracts, each promise on a folder of its own; answers what was broken. */
async function holdContract(root: string): Promise<{ held: number; broken: string[] }> {
  const broken: string[] = [];
  let held = 0;
  const check = async (name: string, work: (folder: string) => Promise<void>): Promise<void> => {
    await work(`${root}/${held++}`).catch((error: unknown) => broken.push(`${name}: ${String(error)}`));
  };
  for (const [adapter, make] of Object.entries(READERS)) {
    for (const { name, hold } of READER_CONTRACT) {
      let made = 0;
      await check(`${adapter} ${name}`, (folder) => hold((files) => make(`${folder}/${made++}`, files)));
    }
  }
  for (const { name, hold } of FOLDER_CONTRACT) {
    await check(`browser disk ${name}`, (folder) => hold(browserDisk(folder)));
    await check(`picked folder ${name}`, async (folder) => hold(pickedFolder(await handleOf(folder))));
  }
  return { held, broken };
}

// The same module runs in a page, which calls it by name, and in a worker, which answers a message.
Object.assign(globalThis, { holdContract });
onmessage = async ({ data }: MessageEvent<string>) => postMessage(await holdContract(data));
