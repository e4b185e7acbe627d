import { type Disk, isInStore, isShared, PLACES, STORE_FOLDER, treeFolder } from '#core/changes';
import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';
import { installFolder } from './install-disk';
import type { BrowserFolder } from './browser-disk';
import { pickedFolder } from './picked-folder';

/** A folder that was picked, and the browser disk on which its contents lie. */
export interface PickedPlace {
  readonly kind: 'picked';
  readonly handle: FileSystemDirectoryHandle;
  /** Another picked folder that has the store, in a folder named after the game's; in the game's own, where left out. */
  readonly store?: FileSystemDirectoryHandle;
  readonly disk: string;
  /** What the folder is called as a tree: the one that there is. */
  readonly tree: string;
}

/** The folder in which the store of a picked folder lies, and what is before the store's paths there. */
function storeOf({ handle, store }: Pick<PickedPlace, 'handle' | 'store'>): [BrowserFolder, string] {
  return store ? [pickedFolder(store, `${STORE_FOLDER}-${handle.name}`), ''] : [pickedFolder(handle), STORE_FOLDER];
}

/**
 * A picked folder as the engine for changes wants it. The folder is the one tree that there is, since folders cannot be
 * moved here; the store lies in it or in another picked folder, but for contents: those are put down piece by piece, which
 * only the browser's own disk does quickly, and are shared with the other installs there.
 */
export function pickedDisk({ handle, store: elsewhere, disk, tree }: PickedPlace): Disk {
  const folder = pickedFolder(handle);
  const [store, inStore] = elsewhere ? storeOf({ handle, store: elsewhere }) : [folder, STORE_FOLDER];
  const contents = installFolder(disk);
  const game = treeFolder(tree);
  const isContent = (path: string): boolean =>
    path === PLACES.arriving || isBelow(path, PLACES.arriving) || isShared(path);
  /** Where a path lies, and what it is called there. */
  const at = (path: string): readonly [BrowserFolder, string] => {
    if (isContent(path)) return [contents, path];
    if (path !== game && !isBelow(path, game)) return [store, [inStore, path].filter(Boolean).join('/')];
    const below = path.slice(game.length + 1);
    if (isInStore(below)) throw new Failure('folder/no-permission', { path });
    return [folder, below];
  };
  const oneTree = async (from: string): Promise<never> => {
    throw new Failure('changes/superseded', { found: tree, expected: from });
  };
  return {
    can: folder.can,
    async list(path = '', listener) {
      const [where, below] = at(path);
      const entries = await where.list(below, listener);
      const cut = below === '' ? 0 : below.length + 1;
      return entries.map((entry) => ({ ...entry, path: [path, entry.path.slice(cut)].filter(Boolean).join('/') }));
    },
    async stat(path) {
      const [where, below] = at(path);
      const entry = await where.stat(below);
      return entry && { ...entry, path };
    },
    open(path, likelySize) {
      const [where, below] = at(path);
      return where.open(below, likelySize);
    },
    read(path, start, end) {
      const [where, below] = at(path);
      return where.read(below, start, end);
    },
    writeWhole(path, bytes) {
      const [where, below] = at(path);
      return where.writeWhole(below, bytes);
    },
    writeAt(path, offset, bytes) {
      const [where, below] = at(path);
      return where.writeAt(below, offset, bytes);
    },
    async copy(from, to) {
      const [[source, there], [target, here]] = [at(from), at(to)];
      if (source === target) await source.copy(there, here);
      else await target.put(here, await source.fileOf(there));
    },
    async move(from, to) {
      const [[source, there], [target, here]] = [at(from), at(to)];
      if (source === target) return source.move(there, here);
      // Another drive, perhaps: a copy that is whole before the first one goes.
      await target.put(here, await source.fileOf(there));
      await source.remove(there);
    },
    remove(path) {
      const [where, below] = at(path);
      return where.remove(below);
    },
    sync: folder.sync,
    setReadOnly: (path, readOnly) => folder.setReadOnly(at(path)[1], readOnly),
    setModified: folder.setModified,
    isReadOnly: folder.isReadOnly,
    room: folder.room,
    current: async () => tree,
    exchange: oneTree,
  };
}

/**
 * Copies the store of a picked folder to where it is to lie, over what an earlier try has left there.
 * @throws Failure `job/cancelled`, `folder/*`
 */
export async function copyStore(
  from: Pick<PickedPlace, 'handle' | 'store'>,
  to: FileSystemDirectoryHandle | undefined,
  { signal, progress }: { signal: AbortSignal; progress(done: { files: number; bytes: number }): void },
): Promise<void> {
  const [source, there] = storeOf(from);
  const [target, here] = storeOf({ handle: from.handle, ...(to && { store: to }) });
  for (const { path, size } of await source.list(there)) {
    if (signal.aborted) throw new Failure('job/cancelled');
    const below = there === '' ? path : path.slice(there.length + 1);
    await target.put([here, below].filter(Boolean).join('/'), await source.fileOf(path));
    progress({ files: 1, bytes: size });
  }
}

/** Removes the store of a picked folder from where it lies. @throws Failure `folder/*` */
export async function dropStore(place: Pick<PickedPlace, 'handle' | 'store'>): Promise<void> {
  const [folder, path] = storeOf(place);
  await folder.remove(path);
}
