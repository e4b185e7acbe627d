import { z } from 'zod';
import type { Disk } from '#core/changes';
import { isFailure } from '#core/failure';
import type { Folder } from '#core/folders';
import { parseJson } from '#core/json';
import { browserDisk } from './browser-disk';
import { FETCHED, INSTALL_DISK } from './layout';

/** Says which tree is the game's folder: on the browser disk folders cannot be moved, so they are swapped by name. */
const POINTER = 'current.dat';
const PointerSchema = z.object({ tree: z.string() });

/**
 * The browser disk of an install.
 * @param first tree that is the game's folder for as long as nothing has been swapped
 */
export function installDisk(install: string, first: string): Disk {
  return withPointer(browserDisk(INSTALL_DISK(install)), first);
}

/** Removes all that lies on the browser disk of an install. */
export const dropDisk = (install: string): Promise<void> => browserDisk(INSTALL_DISK(install)).remove('');

/** Removes what was fetched for an install from the browser disk. */
export const dropFetched = (install: string): Promise<void> => browserDisk(INSTALL_DISK(install)).remove(FETCHED);

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
