import { isInStore } from '#core/changes';
import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';
import { openBlob } from './blob-file';
import { naming } from './file-failures';
import { type FolderReader, LOOK_ONLY } from '#core/folders';

/** Files by their paths, as a person handed them over: by dropping a folder, or through a folder input. */
export type HandedFiles = ReadonlyMap<string, File>;

/** Handed-over files as a folder, to look at. */
export function handedFolder(files: HandedFiles): FolderReader {
  const get = (path: string): File => {
    const file = files.get(path);
    if (!file) throw new Failure('folder/not-found', { path });
    return file;
  };
  const entry = (path: string, { size, lastModified }: File) => ({ path, size, modified: lastModified });
  return {
    can: LOOK_ONLY,
    list: async (folder = '') =>
      [...files]
        // The store that a served or picked folder has in it is no part of the game.
        .filter(([path]) => isBelow(path, folder) && !isInStore(path))
        .map(([path, file]) => entry(path, file))
        .toSorted((a, b) => (a.path < b.path ? -1 : 1)),
    stat: async (path) => (files.has(path) ? entry(path, get(path)) : undefined),
    open: (path) => naming(path, async () => openBlob(get(path))),
    read: (path, start = 0, end = Infinity) => naming(path, async () => openBlob(get(path)).read(start, end)),
    room: async () => undefined,
  };
}

/** The files of a folder input, without the name of the folder that was chosen. */
export function filesOfInput(list: Iterable<File>): { name: string; files: HandedFiles } {
  const files = new Map<string, File>();
  let name = '';
  for (const file of list) {
    const [top, ...path] = file.webkitRelativePath.split('/');
    name ||= top ?? '';
    files.set(path.join('/'), file);
  }
  return { name, files };
}
