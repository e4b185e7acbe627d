import { type Disk, PLACES } from '#core/changes';
import { Failure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { isBelow } from '#core/paths';
import type { ServedBeside } from '#core/served';
import type { BrowserFolder } from './browser-disk';
import { type Place, readerAt } from './places';

/** Folders outside an install's disk, by what the disk calls them in `beside/`. */
export type BesidePlaces = Readonly<Record<string, Place>>;

/** Where a folder lies that a disk calls by this name. */
export const besidePath = (name: string, path = ''): string =>
  [PLACES.beside, name, path].filter((part) => part !== '').join('/');

/** Those of them that the server reaches: it has no others. */
export const servedOnes = (places: BesidePlaces): ServedBeside =>
  Object.fromEntries(
    Object.entries(places).flatMap(([name, at]: [string, Place]) =>
      at.kind === 'served'
        ? [[name, { root: at.root, folder: at.folder, ...(at.contents && { contents: at.contents }) }]]
        : [],
    ),
  );

const COPIED_AT_ONCE = 8 << 20;

const isWritable = (folder: FolderReader): folder is BrowserFolder => 'put' in folder;

function writable(folder: FolderReader, path: string): BrowserFolder {
  if (!isWritable(folder)) throw new Failure('folder/no-permission', { path });
  return folder;
}

/** Copies a file into a disk from a folder that only hands out bytes; not atomic: whoever asked reads it again. */
async function copyOut(from: FolderReader, there: string, disk: Disk, to: string): Promise<void> {
  const file = await from.open(there);
  try {
    if (file.size === 0) return await disk.writeWhole(to, new Uint8Array(0));
    await disk.remove(to);
    for (let at = 0; at < file.size; at += COPIED_AT_ONCE) {
      const bytes = await file.read(at, Math.min(file.size, at + COPIED_AT_ONCE));
      if (bytes.length === 0) throw new Failure('folder/changed-meanwhile', { path: there });
      await disk.writeAt(to, at, bytes);
    }
  } finally {
    file.close();
  }
}

/** A file as a blob, which the browser may put on its disk while it is made. */
async function blobFrom(from: FolderReader, path: string): Promise<Blob> {
  const file = await from.open(path);
  try {
    const parts: Blob[] = [];
    for (let at = 0; at < file.size; at += COPIED_AT_ONCE)
      parts.push(new Blob([await file.read(at, Math.min(file.size, at + COPIED_AT_ONCE))]));
    return new Blob(parts);
  } finally {
    file.close();
  }
}

type Beside = ReadonlyMap<string, FolderReader>;

const readersOf = (places: BesidePlaces): Beside =>
  new Map(Object.entries(places).map(([name, place]) => [name, readerAt(place)] as const));

/** The folder beside a disk that has a path, and what it is called there. */
function besideAt(folders: Beside, path: string): readonly [FolderReader, string] | undefined {
  if (!isBelow(path, PLACES.beside)) return undefined;
  const [, name = '', ...rest] = path.split('/');
  const folder = folders.get(name);
  return folder && [folder, rest.join('/')];
}

/** Opens files of a disk, and of folders beside it. */
export function openBeside(disk: Pick<FolderReader, 'open'>, places: BesidePlaces): Pick<FolderReader, 'open'> {
  const folders = readersOf(places);
  return {
    open(path, likelySize) {
      const [folder, there] = besideAt(folders, path) ?? [disk, path];
      return folder.open(there, likelySize);
    },
  };
}

/**
 * A disk with folders beside it that lie elsewhere: what a person pointed at. Those that the browser may change can be
 * changed, the others are only read.
 */
export function withBeside(disk: Disk, places: BesidePlaces): Disk {
  const folders = readersOf(places);
  if (folders.size === 0) return disk;
  const beside = (path: string): ReturnType<typeof besideAt> => besideAt(folders, path);
  /** Where a path may be written. @throws Failure `folder/no-permission` */
  const writing = (path: string): readonly [Disk | BrowserFolder, string] => {
    const other = beside(path);
    return other ? [writable(other[0], path), other[1]] : [disk, path];
  };
  const reading = (path: string): readonly [FolderReader, string] => beside(path) ?? [disk, path];
  return {
    ...disk,
    async list(path = '', listener) {
      const [folder, there] = reading(path);
      if (folder === disk) return disk.list(path, listener);
      const name = path.split('/')[1]!;
      return (await folder.list(there, listener)).map((entry) => ({ ...entry, path: besidePath(name, entry.path) }));
    },
    async stat(path) {
      const [folder, there] = reading(path);
      const entry = await folder.stat(there);
      return entry && { ...entry, path };
    },
    open(path, likelySize) {
      const [folder, there] = reading(path);
      return folder.open(there, likelySize);
    },
    read(path, start, end) {
      const [folder, there] = reading(path);
      return folder.read(there, start, end);
    },
    async writeWhole(path, bytes) {
      const [folder, there] = writing(path);
      await folder.writeWhole(there, bytes);
    },
    async writeAt(path, offset, bytes) {
      const [folder, there] = writing(path);
      await folder.writeAt(there, offset, bytes);
    },
    async copy(from, to) {
      const [source, there] = reading(from);
      const [target, here] = writing(to);
      if (source === disk && target === disk) return disk.copy(from, to);
      if (target === disk) return copyOut(source, there, disk, to);
      await (target as BrowserFolder).put(here, await blobFrom(source, there));
    },
    async move(from, to) {
      const [source, there] = writing(from);
      const [target, here] = writing(to);
      if (source === target) return source.move(there, here);
      // Two volumes: a copy that is whole before the first one goes.
      if (target === disk) await copyOut(source, there, disk, to);
      else await (target as BrowserFolder).put(here, await blobFrom(source, there));
      await source.remove(there);
    },
    async remove(path) {
      const [folder, there] = writing(path);
      await folder.remove(there);
    },
    sync: (paths) => disk.sync(paths.filter((path) => !beside(path))),
    async setReadOnly(path, readOnly) {
      const [folder, there] = writing(path);
      await folder.setReadOnly(there, readOnly);
    },
    async setModified(path, modified) {
      const [folder, there] = writing(path);
      await folder.setModified(there, modified);
    },
    async isReadOnly(path) {
      const other = beside(path);
      return other ? isWritable(other[0]) && other[0].isReadOnly(other[1]) : disk.isReadOnly(path);
    },
  };
}
