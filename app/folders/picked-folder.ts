import { fileName, folderOf } from '#core/paths';
import { openBlob } from './blob-file';
import { naming } from './file-failures';
import { type FolderReader, LOOK_ONLY } from '#core/folders';
import { entriesBelow } from './walk';
import { whileHeld } from './while-held';

/**
 * A folder that a person picked (File System Access), to look at. Works in pages and workers, as long as the browser
 * grants reading it.
 */
export function pickedFolder(root: FileSystemDirectoryHandle): FolderReader {
  async function folder(path: string): Promise<FileSystemDirectoryHandle> {
    let handle = root;
    if (path !== '')
      for (const part of path.split('/')) handle = await whileHeld(handle, handle.getDirectoryHandle(part));
    return handle;
  }

  const blob = async (path: string): Promise<File> => {
    const above = await folder(folderOf(path));
    const handle = await whileHeld(above, above.getFileHandle(fileName(path)));
    return whileHeld(handle, handle.getFile());
  };

  async function startOf(path: string): Promise<FileSystemDirectoryHandle | undefined> {
    return folder(path).catch((error: unknown) => {
      if (error instanceof DOMException && error.name === 'NotFoundError' && path !== '') return undefined;
      throw error;
    });
  }

  return {
    can: LOOK_ONLY,
    list: (path = '', listener) =>
      naming(path, async () => {
        const start = await startOf(path);
        return start ? entriesBelow(start, path, listener) : [];
      }),
    async stat(path) {
      const file = await blob(path).catch(() => undefined);
      return file && { path, size: file.size, modified: file.lastModified };
    },
    open: (path) => naming(path, async () => openBlob(await blob(path))),
    read: (path, start = 0, end = Infinity) => naming(path, async () => openBlob(await blob(path)).read(start, end)),
    room: async () => undefined,
  };
}
