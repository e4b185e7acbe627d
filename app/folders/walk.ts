import type { FolderEntry, ListListener } from '#core/folders';
import { whileHeld } from './while-held';

/** Files whose size and time are asked for at once: each takes a round trip to another process. */
const AT_ONCE = 64;

async function* filesBelow(
  handle: FileSystemDirectoryHandle,
  prefix: string,
): AsyncGenerator<{ path: string; handle: FileSystemFileHandle }> {
  for await (const [name, child] of handle.entries()) {
    const path = prefix === '' ? name : `${prefix}/${name}`;
    if (child.kind === 'directory') yield* filesBelow(child as FileSystemDirectoryHandle, path);
    else yield { path, handle: child as FileSystemFileHandle };
  }
}

/**
 * Every file below a directory, sorted by path. A file that vanishes meanwhile is not in it.
 * @param prefix path of the directory, which the files' paths begin with
 */
export async function entriesBelow(
  start: FileSystemDirectoryHandle,
  prefix: string,
  { found }: ListListener = {},
  counts: (path: string) => boolean = () => true,
): Promise<FolderEntry[]> {
  const entries: FolderEntry[] = [];
  const files = filesBelow(start, prefix);
  const lane = async (): Promise<void> => {
    for (let next = await files.next(); !next.done; next = await files.next()) {
      const { path, handle } = next.value;
      if (!counts(path)) continue;
      const file = await whileHeld(handle, handle.getFile()).catch((error: unknown) => {
        if (error instanceof DOMException && error.name === 'NotFoundError') return undefined;
        throw error;
      });
      if (!file) continue;
      entries.push({ path, size: file.size, modified: file.lastModified });
      found?.(1);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
  return entries.sort((a, b) => (a.path < b.path ? -1 : 1));
}
