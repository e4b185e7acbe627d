import { fileName, folderOf } from '#core/paths';
import { openBlob } from './blob-file';
import { naming } from './file-failures';
import { type FolderEntry, type FolderReader, LOOK_ONLY } from './folder';

/** Files whose size and time are asked for at once: each takes a round trip to another process. */
const AT_ONCE = 64;

/**
 * A folder that a person picked (File System Access), to look at. Works in pages and workers, as long as the browser
 * grants reading it.
 */
export function pickedFolder(root: FileSystemDirectoryHandle): FolderReader {
  async function folder(path: string): Promise<FileSystemDirectoryHandle> {
    let handle = root;
    if (path !== '') for (const part of path.split('/')) handle = await handle.getDirectoryHandle(part);
    return handle;
  }

  const blob = async (path: string): Promise<File> => {
    const above = await folder(folderOf(path));
    return (await above.getFileHandle(fileName(path))).getFile();
  };

  async function* walk(
    handle: FileSystemDirectoryHandle,
    prefix: string,
  ): AsyncGenerator<{ path: string; handle: FileSystemFileHandle }> {
    for await (const [name, child] of handle.entries()) {
      const path = prefix === '' ? name : `${prefix}/${name}`;
      if (child.kind === 'directory') yield* walk(child as FileSystemDirectoryHandle, path);
      else yield { path, handle: child as FileSystemFileHandle };
    }
  }

  async function entriesBelow(path: string): Promise<FolderEntry[]> {
    const entries: FolderEntry[] = [];
    const start = await folder(path).catch((error: unknown) => {
      if (error instanceof DOMException && error.name === 'NotFoundError' && path !== '') return undefined;
      throw error;
    });
    if (!start) return entries;
    const files = walk(start, path);
    const lane = async (): Promise<void> => {
      for (let next = await files.next(); !next.done; next = await files.next()) {
        const file = next.value;
        // A file that vanishes while the folder is being listed is not in it.
        const { size, lastModified } = (await file.handle.getFile().catch(() => undefined)) ?? {};
        if (size !== undefined) entries.push({ path: file.path, size, modified: lastModified! });
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    return entries;
  }

  return {
    can: LOOK_ONLY,
    list: (path = '') =>
      naming(path, async () => (await entriesBelow(path)).toSorted((a, b) => (a.path < b.path ? -1 : 1))),
    async stat(path) {
      const file = await blob(path).catch(() => undefined);
      return file && { path, size: file.size, modified: file.lastModified };
    },
    open: (path) => naming(path, async () => openBlob(await blob(path))),
    read: (path, start = 0, end = Infinity) => naming(path, async () => openBlob(await blob(path)).read(start, end)),
    room: async () => undefined,
  };
}
