import { isFailure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import { fileName, folderOf } from '#core/paths';
import { naming } from './file-failures';
import { whileHeld } from './while-held';

export const fileIn = (
  above: FileSystemDirectoryHandle,
  name: string,
  create: boolean,
): Promise<FileSystemFileHandle> => whileHeld(above, above.getFileHandle(name, { create }));

export const blobOf = (handle: FileSystemFileHandle): Promise<File> => whileHeld(handle, handle.getFile());

export const isNotFound = (error: unknown): boolean => error instanceof DOMException && error.name === 'NotFoundError';

/** Size and time of a file; undefined where there is none. @throws Failure `folder/*` */
export async function entryAt(
  path: string,
  open: () => Promise<FileSystemFileHandle>,
): Promise<FolderEntry | undefined> {
  try {
    const { size, lastModified } = await naming(path, async () => blobOf(await open()));
    return { path, size, modified: lastModified };
  } catch (error) {
    // Anything else must not look as if nothing were there.
    if (isFailure(error, 'folder/not-found')) return undefined;
    throw error;
  }
}

export interface MovableHandle extends FileSystemFileHandle {
  /** Chromium's `move` on files; not yet in the DOM library. */
  move(folder: FileSystemDirectoryHandle, name: string): Promise<void>;
}

/** Folders and files by their paths below a directory. What is missing is made where that is asked for. */
export interface HandleTree {
  folder(path: string, create?: boolean): Promise<FileSystemDirectoryHandle>;
  file(path: string, create?: boolean): Promise<FileSystemFileHandle>;
  /** Removes a file, or a folder with all that is in it; for the whole its contents. What is not there is no error. */
  remove(path: string): Promise<void>;
  /** Lets go of the folders that were opened, since somebody may have made them anew. */
  forget(): void;
}

/** @param openRoot is asked again after folders were let go of */
export function handleTree(openRoot: () => Promise<FileSystemDirectoryHandle>): HandleTree {
  const handles = new Map<string, Promise<FileSystemDirectoryHandle>>();

  function folder(path: string, create = false): Promise<FileSystemDirectoryHandle> {
    const known = handles.get(path);
    if (known) return known;
    const opened =
      path === ''
        ? openRoot()
        : folder(folderOf(path), create).then((above) =>
            whileHeld(above, above.getDirectoryHandle(fileName(path), { create })),
          );
    handles.set(path, opened);
    // A folder that is not there now may be made later.
    opened.catch(() => handles.delete(path));
    return opened;
  }

  return {
    folder,
    async file(path, create = false) {
      try {
        return await fileIn(await folder(folderOf(path), create), fileName(path), create);
      } catch (error) {
        // Somebody else may have removed and made the folder anew; its old handle is then of no use.
        if (!isNotFound(error) || folderOf(path) === '') throw error;
        handles.clear();
        return fileIn(await folder(folderOf(path), create), fileName(path), create);
      }
    },
    async remove(path) {
      handles.clear();
      const above = await folder(folderOf(path)).catch(() => undefined);
      // The folder itself stays where it is the whole; it is emptied name by name.
      const names = path === '' ? [] : [fileName(path)];
      if (path === '' && above) for await (const name of above.keys()) names.push(name);
      for (const name of names) {
        if (!above) continue;
        await whileHeld(above, above.removeEntry(name, { recursive: true })).catch((error: unknown) => {
          if (!isNotFound(error)) throw error;
        });
      }
      handles.clear();
    },
    forget: () => handles.clear(),
  };
}
