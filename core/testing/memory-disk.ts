import { createHash } from 'node:crypto';
import type { ChangePorts, Disk } from '#core/changes';
import { contentKey, type ContentKey, PIECE_SIZE, pieceCount, pieceRange } from '#core/digest';
import { Failure } from '#core/failure';
import { type FolderReader, type HashOutcome, type HashWish, memoryFolder } from '#core/folders';

const digest = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');

/** The key of some bytes that are cut as usual. */
export function keyOfBytes(bytes: Uint8Array): ContentKey {
  const pieces = Array.from({ length: pieceCount(bytes.length) }, (_, i) => {
    const { start, end } = pieceRange(bytes.length, i);
    return digest(bytes.subarray(start, end));
  });
  return contentKey(bytes.length, pieces);
}

export const keyOfText = (text: string): ContentKey => keyOfBytes(new TextEncoder().encode(text));

export function memoryDisk(tree: string): Disk {
  let current = tree;
  return {
    ...memoryFolder(),
    current: async () => current,
    exchange: async (_from, to) => void (current = to),
  };
}

/** The same disk, of which the game and the store lie on two volumes: a move is a copy, and then a removal. */
export const onTwoVolumes = (disk: Disk): Disk => ({
  ...disk,
  async move(from, to) {
    await disk.copy(from, to);
    await disk.remove(from);
  },
});

const CHANGING = ['writeWhole', 'writeAt', 'move', 'copy', 'remove', 'setReadOnly', 'exchange'] as const;

/** The same disk, on which only so many more changes are made; then the power goes. */
export function failingAfter(changes: number, disk: Disk): Disk {
  let made = 0;
  const isChange = (name: string | symbol): boolean => (CHANGING as readonly (string | symbol)[]).includes(name);
  return new Proxy(disk, {
    get(_, name) {
      const value = disk[name as keyof Disk] as unknown;
      if (typeof value !== 'function') return value;
      const call = value.bind(disk) as (...parameters: unknown[]) => Promise<unknown>;
      if (!isChange(name)) return call;
      return async (...parameters: unknown[]): Promise<unknown> => {
        if (made >= changes) throw new Failure('folder/failed', { message: 'the power went' });
        made += 1;
        return call(...parameters);
      };
    },
  });
}

async function hashOne(
  disk: FolderReader,
  { path, size, pieceSize = PIECE_SIZE, span }: HashWish,
): Promise<HashOutcome> {
  const entry = await disk.stat(path);
  if (!entry) return { code: 'folder/not-found' };
  if (span && entry.size !== size) return { code: 'folder/changed-meanwhile' };
  const bytes = await disk.read(path);
  const [first, end] = span ? [span.first, span.end] : [0, pieceCount(bytes.length, pieceSize)];
  const pieces = Array.from({ length: end - first }, (_, i) => {
    const range = pieceRange(bytes.length, first + i, pieceSize);
    return digest(bytes.subarray(range.start, range.end));
  });
  return { size: bytes.length, bytes: bytes.length, pieces };
}

export function portsOn(disk: Disk, signal: ChangePorts['signal'] = new AbortController().signal): ChangePorts {
  return {
    disk,
    sha256: async (data) => digest(data),
    hash: (files) => Promise.all(files.map((file) => hashOne(disk, file))),
    encode: (text) => new TextEncoder().encode(text),
    decode: (bytes) => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
    now: () => 0,
    signal,
    progress: () => undefined,
  };
}

/** Path and bytes of everything below a folder, as text, and which of it is read-only. */
export async function pictureOf(disk: Disk, folder = ''): Promise<Record<string, string>> {
  const picture: Record<string, string> = {};
  for (const { path } of await disk.list(folder)) {
    const flag = (await disk.isReadOnly(path)) ? ' (read-only)' : '';
    picture[path] = `${new TextDecoder('latin1').decode(await disk.read(path))}${flag}`;
  }
  return picture;
}
