import { type Disk, PLACES, STORE_FOLDER, treeFolder } from '#core/changes';
import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';
import { browserDisk, fileOnBrowserDisk } from './browser-disk';
import { pickedFolder } from './picked-folder';

/** A folder that was picked, and the browser disk on which lies what was fetched for it. */
export interface PickedPlace {
  readonly kind: 'picked';
  readonly handle: FileSystemDirectoryHandle;
  readonly disk: string;
  /** What the folder is called as a tree: the one that there is. */
  readonly tree: string;
}

/**
 * A picked folder as the engine for changes wants it. The folder is the one tree that there is, since folders cannot be
 * moved here; the store lies in it, but for what was fetched: that is put down piece by piece, which only the browser's
 * own disk does quickly.
 */
export function pickedDisk({ handle, disk, tree }: PickedPlace): Disk {
  const folder = pickedFolder(handle);
  const fetched = browserDisk(disk);
  const game = treeFolder(tree);
  const isFetched = (path: string): boolean => path === PLACES.arrived || isBelow(path, PLACES.arrived);
  /** A path of this disk as one of the folder. */
  const within = (path: string): string => {
    if (path !== game && !isBelow(path, game)) return `${STORE_FOLDER}/${path}`;
    const below = path.slice(game.length + 1);
    if (below === STORE_FOLDER || isBelow(below, STORE_FOLDER)) throw new Failure('folder/no-permission', { path });
    return below;
  };
  /** Where a path lies, and what it is called there. */
  const at = (path: string) => (isFetched(path) ? ([fetched, path] as const) : ([folder, within(path)] as const));
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
      if (isFetched(from)) await folder.put(within(to), await fileOnBrowserDisk(disk, from));
      else await folder.copy(within(from), within(to));
    },
    move(from, to) {
      if (isFetched(from) && isFetched(to)) return fetched.move(from, to);
      return folder.move(within(from), within(to));
    },
    remove(path) {
      const [where, below] = at(path);
      return where.remove(below);
    },
    sync: folder.sync,
    setReadOnly: (path, readOnly) => folder.setReadOnly(within(path), readOnly),
    isReadOnly: folder.isReadOnly,
    room: folder.room,
    current: async () => tree,
    exchange: oneTree,
  };
}
