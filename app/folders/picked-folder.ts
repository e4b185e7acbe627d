import type { BrowserFolder } from './browser-disk';
import { Failure } from '#core/failure';
import { isInStore, STORE_FOLDER } from '#core/changes';
import { noTimes } from '#core/folders';
import { fileName, folderOf, isBelow } from '#core/paths';
import { openBlob } from './blob-file';
import { naming } from './file-failures';
import { blobOf, entryAt, handleTree, isNotFound, type MovableHandle } from './handle-tree';
import { entriesBelow } from './walk';
import { whileHeld } from './while-held';

/** Ends the name of a file that the browser is writing; one that was cut off leaves it. */
const BEING_WRITTEN = '.crswap';

/** A folder of that name in another one; made where it is not there and changes are allowed. */
const folderIn = (root: FileSystemDirectoryHandle, name: string): Promise<FileSystemDirectoryHandle> =>
  root.getDirectoryHandle(name).catch((error: unknown) => {
    if (!isNotFound(error)) throw error;
    return root.getDirectoryHandle(name, { create: true });
  });

/**
 * A folder that a person picked (File System Access), or one in it. Works in pages and workers, as long as the browser grants reading
 * it, or for changes reading and writing. The platform knows no read-only flag and tells nothing of room; many a kind of
 * file is looked into when it is written, which takes up to a second each.
 * @param name of a folder in the picked one
 */
export function pickedFolder(root: FileSystemDirectoryHandle, name?: string): BrowserFolder {
  const { folder, file, ...tree } = handleTree(async () => (name === undefined ? root : folderIn(root, name)));
  const isStore = (path: string): boolean => path === STORE_FOLDER || isBelow(path, STORE_FOLDER);

  async function put(path: string, write: (stream: FileSystemWritableFileStream) => Promise<void>): Promise<void> {
    const handle = await file(path, true);
    const stream = await whileHeld(handle, handle.createWritable());
    await write(stream);
  }
  const putBlob = (path: string, blob: Blob): Promise<void> => put(path, (stream) => blob.stream().pipeTo(stream));
  const putBytes = (path: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> =>
    put(path, async (stream) => {
      await stream.write(bytes);
      await stream.close();
    });

  return {
    can: { write: true, move: true, readOnlyFlag: false, times: false, freeSpace: false },
    list: (path = '', listener) =>
      naming(path, async () => {
        tree.forget();
        const start = await folder(path).catch((error: unknown) => {
          if (isNotFound(error) && path !== '') return undefined;
          throw error;
        });
        // The store is no part of the game; who asks for what is in it has it.
        const counts = (found: string): boolean =>
          (isStore(path) || !isInStore(found)) && !(isStore(found) && found.endsWith(BEING_WRITTEN));
        return start ? entriesBelow(start, path, listener, counts) : [];
      }),
    stat: (path) => entryAt(path, () => file(path)),
    open: (path) => naming(path, async () => openBlob(await blobOf(await file(path)))),
    read: (path, start = 0, end = Infinity) =>
      naming(path, async () => openBlob(await blobOf(await file(path))).read(start, end)),
    room: async () => undefined,
    put: (path, blob) => naming(path, () => putBlob(path, blob)),
    fileOf: (path) => naming(path, async () => blobOf(await file(path))),
    writeWhole: (path, bytes) => naming(path, () => putBytes(path, bytes)),
    writeAt: (path, position, data) =>
      naming(path, async () => {
        const handle = await file(path, true);
        const stream = await whileHeld(handle, handle.createWritable({ keepExistingData: true }));
        await stream.write({ type: 'write', position, data });
        await stream.close();
      }),
    move: (from, to) =>
      naming(from, async () => {
        const handle = (await file(from)) as MovableHandle;
        await whileHeld(handle, handle.move(await folder(folderOf(to), true), fileName(to)));
      }),
    copy: (from, to) => naming(from, async () => putBlob(to, await blobOf(await file(from)))),
    // Each file is written through when it is closed; more cannot be asked for here.
    sync: async () => undefined,
    remove: (path) => naming(path, () => tree.remove(path)),
    setReadOnly: async (path) => {
      throw new Failure('folder/no-permission', { path });
    },
    setModified: noTimes,
    isReadOnly: async () => false,
  };
}
