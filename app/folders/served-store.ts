import { z } from 'zod';
import { Failure } from '#core/failure';
import type { Folder, FolderEntry } from '#core/folders';
import { SERVED_TOKEN_HEADER, ServedStateSchema } from '#core/served';
import { isBelow } from '#core/paths';
import { request } from '~/remote';
import { FETCHED } from './layout';
import { servedFolder, type ServedPlace } from './served-folder';

const EntriesSchema = z.array(z.object({ path: z.string(), size: z.number(), modified: z.number() }));

/** As much of a folder as a fetch needs, which puts contents down before they are right. */
export type ArrivalFolder = Pick<Folder, 'stat' | 'open' | 'writeAt' | 'move' | 'read' | 'writeWhole'>;

export interface ServedStore extends ArrivalFolder {
  /** Whether the folder may be changed, and which tree it is. */
  state(): Promise<z.output<typeof ServedStateSchema>>;
  /** Files below a folder of the store. */
  list(below: string): Promise<FolderEntry[]>;
  /** Removes all that has come. */
  dropArrived(): Promise<void>;
}

const TREE = /^trees\/[^/]+\//;

/**
 * The store of a served folder, as far as a page may reach it: it reads, and puts down what arrives; the server takes a
 * content over only once its bytes are right. Files of the game are changed by change sets alone.
 */
export function servedStore(place: ServedPlace): ServedStore {
  const { root, folder, token } = place;
  const game = servedFolder(place);
  const ask = (what: string, more: Record<string, string> = {}, init: RequestInit = {}): Promise<Response> =>
    request(`/served/${what}?${new URLSearchParams({ root, folder, ...more })}`, {
      ...init,
      headers: { [SERVED_TOKEN_HEADER]: token },
    });
  const nameOf = (path: string): string => {
    if (!isBelow(path, FETCHED)) throw new Failure('served/outside', { path });
    return path.slice(FETCHED.length + 1).replace(/\.part$/, '');
  };
  const list = async (below: string): Promise<FolderEntry[]> =>
    EntriesSchema.parse(await (await ask('store', { below })).json());
  /** What a fetch has under way itself: that the server has of it is told by what was put down. */
  const sizes = new Map<string, number>();
  const writeAt: Folder['writeAt'] = async (path, offset, bytes) => {
    await ask('arrival', { name: nameOf(path), offset: String(offset) }, { method: 'PUT', body: bytes });
    sizes.set(path, Math.max(sizes.get(path) ?? 0, offset + bytes.length));
  };
  return {
    state: async () => ServedStateSchema.parse(await (await ask('state')).json()),
    list,
    dropArrived: async () => void (await ask('arrival', {}, { method: 'DELETE' })),
    async stat(path) {
      const size = sizes.get(path);
      // A part that an earlier fetch left is fetched anew: its bytes are not read back through the page.
      return size === undefined ? undefined : { path, size, modified: 0 };
    },
    open: (path) => game.open(path.replace(TREE, '')),
    read: (path, start, end) => game.read(path.replace(TREE, ''), start, end),
    writeAt,
    writeWhole: (path, bytes) => writeAt(path, 0, bytes),
    async move(from, to) {
      await ask('arrival', { name: nameOf(to), size: String(sizes.get(from) ?? 0) }, { method: 'POST' });
      sizes.delete(from);
    },
  };
}
