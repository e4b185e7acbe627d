import { z } from 'zod';
import { type Disk, isShared } from '#core/changes';
import { isFailure } from '#core/failure';
import { type Folder, noTimes } from '#core/folders';
import { parseJson } from '#core/json';
import { type BrowserDisk, browserDisk, type BrowserFolder } from './browser-disk';
import { archivePath, INSTALL_DISK, partPath } from './layout';

/** Says which tree is the game's folder: on the browser disk folders cannot be moved, so they are swapped by name. */
const POINTER = 'current.dat';
const PointerSchema = z.object({ tree: z.string() });

/** Where all installs whose contents lie on the browser disk share them. */
const SHARED_DISK = 'store';

/**
 * The browser disk as an install sees it: a folder of its own, and in it as if they lay there the places that all installs
 * share.
 */
export function installFolder(root: string): BrowserFolder {
  const own = browserDisk(root);
  const shared = browserDisk(SHARED_DISK);
  const at = (path: string): BrowserDisk => (isShared(path) ? shared : own);
  return {
    ...own,
    list: (path = '', listener) => at(path).list(path, listener),
    stat: (path) => at(path).stat(path),
    open: (path, likelySize) => at(path).open(path, likelySize),
    read: (path, start, end) => at(path).read(path, start, end),
    writeWhole: (path, bytes) => at(path).writeWhole(path, bytes),
    writeAt: (path, offset, bytes) => at(path).writeAt(path, offset, bytes),
    put: (path, blob) => at(path).put(path, blob),
    fileOf: (path) => at(path).fileOf(path),
    copy: async (from, to) =>
      at(from) === at(to) ? at(from).copy(from, to) : at(to).put(to, await at(from).fileOf(from)),
    move: (from, to) => (at(from) === at(to) ? at(from).move(from, to) : at(from).moveTo(from, at(to), to)),
    remove: (path) => at(path).remove(path),
    setReadOnly: (path, readOnly) => at(path).setReadOnly(path, readOnly),
    setModified: noTimes,
    isReadOnly: (path) => at(path).isReadOnly(path),
  };
}

/**
 * The browser disk of an install.
 * @param first tree that is the game's folder for as long as nothing has been swapped
 */
export function installDisk(install: string, first: string): Disk {
  return withPointer(installFolder(INSTALL_DISK(install)), first);
}

/** Removes an archive that was packed for the person, and what there is of it before it is whole. */
export async function dropArchive(install: string, name: string): Promise<void> {
  const disk = browserDisk(INSTALL_DISK(install));
  const path = archivePath(name);
  await Promise.all([disk.remove(path), disk.remove(partPath(path))]);
}

/** Removes all that lies on the browser disk of an install alone. */
export const dropDisk = (install: string): Promise<void> => browserDisk(INSTALL_DISK(install)).remove('');

/** A folder in which a file says which of its trees counts. */
export function withPointer(folder: Folder, first: string): Disk {
  return {
    ...folder,
    async current() {
      const bytes = await folder.read(POINTER).catch((error: unknown) => {
        if (isFailure(error, 'folder/not-found')) return undefined;
        throw error;
      });
      return bytes ? parseJson(new TextDecoder().decode(bytes), PointerSchema, POINTER).tree : first;
    },
    exchange: (_from, to) => folder.writeWhole(POINTER, new TextEncoder().encode(JSON.stringify({ tree: to }))),
  };
}
