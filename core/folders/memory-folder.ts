import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';
import type { Folder, FolderEntry } from './port';

/** A folder in memory, for tests; it holds to the same contract as the real ones. */
export function memoryFolder(): Folder {
  const files = new Map<string, { bytes: Uint8Array<ArrayBuffer>; modified: number }>();
  const flagged = new Set<string>();
  const get = (path: string): { bytes: Uint8Array<ArrayBuffer>; modified: number } => {
    const file = files.get(path);
    if (!file) throw new Failure('folder/not-found', { path });
    return file;
  };
  const assertWritable = (path: string): void => {
    if (flagged.has(path)) throw new Failure('folder/read-only', { path });
  };
  const entry = (path: string): FolderEntry => {
    const { bytes, modified } = get(path);
    return { path, size: bytes.length, modified };
  };
  return {
    can: { write: true, move: true, readOnlyFlag: true, times: true, freeSpace: false },
    list: async (folder = '') =>
      [...files.keys()]
        .filter((path) => isBelow(path, folder))
        .toSorted()
        .map(entry),
    stat: async (path) => (files.has(path) ? entry(path) : undefined),
    async open(path) {
      const { bytes } = get(path);
      return { size: bytes.length, read: async (start, end) => bytes.slice(start, end), close: () => undefined };
    },
    read: async (path, start = 0, end) => get(path).bytes.slice(start, end),
    async writeWhole(path, bytes) {
      assertWritable(path);
      files.set(path, { bytes: bytes.slice(), modified: Date.now() });
    },
    async writeAt(path, offset, bytes) {
      assertWritable(path);
      const old = files.get(path)?.bytes ?? new Uint8Array(0);
      const grown = new Uint8Array(Math.max(old.length, offset + bytes.length));
      grown.set(old);
      grown.set(bytes, offset);
      files.set(path, { bytes: grown, modified: Date.now() });
    },
    async move(from, to) {
      assertWritable(from);
      assertWritable(to);
      files.set(to, get(from));
      if (from !== to) files.delete(from);
    },
    async copy(from, to) {
      assertWritable(to);
      const { bytes, modified } = get(from);
      files.set(to, { bytes: bytes.slice(), modified });
    },
    sync: async () => undefined,
    async remove(path) {
      const gone = [...files.keys()].filter((name) => name === path || isBelow(name, path));
      gone.forEach(assertWritable);
      gone.forEach((name) => files.delete(name));
    },
    async setReadOnly(path, readOnly) {
      get(path);
      if (readOnly) flagged.add(path);
      else flagged.delete(path);
    },
    async setModified(path, modified) {
      files.set(path, { ...get(path), modified });
    },
    isReadOnly: async (path) => flagged.has(path),
    room: async () => undefined,
  };
}
