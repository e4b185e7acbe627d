import { z } from 'zod';
import { Failure, failureFromWire } from '#core/failure';
import type { Brought, Haul, PieceNews } from '#core/fetch';
import type { Folder, FolderEntry, FolderReader } from '#core/folders';
import {
  SERVED_TOKEN_HEADER,
  type ServedBeside,
  type ServedFetch,
  ServedFetchNewsSchema,
  ServedJournalSchema,
  ServedSourcesSchema,
  type ServedState,
  ServedStateSchema,
} from '#core/served';
import { type Journalled, PLACES } from '#core/changes';
import { type ArrivalFolder, arrivingPath, type StoreView, StoreViewSchema } from '#core/contents';
import type { ContentKey } from '#core/digest';
import { type Keepsake, type KeepsakeList, KeepsakeListSchema, KeepsakeSchema } from '#core/keepsakes';
import { isBelow } from '#core/paths';
import { request } from '~/remote';
import { servedContents, servedFolder, type ServedPlace, servedValues } from './served-folder';

const EntriesSchema = z.array(z.object({ path: z.string(), size: z.number(), modified: z.number() }));

/** What is to be fetched; `token` is that of a sign-in at the service. */
interface Fetching extends Haul {
  readonly token?: string | undefined;
  readonly bytesPerSecond?: number | undefined;
  /** Folders elsewhere that pieces lie in; those that the server reaches. */
  readonly beside?: ServedBeside | undefined;
}

export interface ServedStore extends ArrivalFolder {
  /** Has the server fetch contents into the store: their bytes go from their sources to the disk. */
  fetch(wanted: Fetching, progress: (news: PieceNews) => void, signal: AbortSignal): Promise<Brought>;
  /** Whether the folder may be changed, and which tree it is. */
  state(): Promise<ServedState>;
  /** Files below a folder of the store. */
  list(below: string): Promise<FolderEntry[]>;
  /** What lies on the disk, and why. */
  view(): Promise<StoreView>;
  /** What a browser has left here of what it knew of the install. */
  mirror(): Promise<string | undefined>;
  keepsakes(): Promise<KeepsakeList>;
  /** A keepsake with its files; undefined where there is none of that id. */
  keepsake(id: string): Promise<Keepsake | undefined>;
  /** Where contents are to be had besides the game's folder. */
  sources(without?: string): Promise<Map<ContentKey, string>>;
  /** How far a change set has come; undefined where there is none. */
  journal(set: string): Promise<Journalled | undefined>;
}

const TREE = /^trees\/[^/]+\//;

/**
 * The store of a served folder, as far as a page may reach it: it reads, and puts down what arrives; the server takes a
 * content over only once its bytes are right. Files of the game are changed by change sets alone.
 */
export function servedStore(place: ServedPlace): ServedStore {
  const { root, folder, token } = place;
  const game = servedFolder(place);
  const contents = servedContents(place);
  const at = (path: string): FolderReader => (isBelow(path, PLACES.contents) ? contents : game);
  const ask = (what: string, more: Record<string, string> = {}, init: RequestInit = {}): Promise<Response> =>
    request(`/served/${what}?${new URLSearchParams({ root, folder, ...more })}`, {
      ...init,
      headers: { [SERVED_TOKEN_HEADER]: token },
    });
  const nameOf = (path: string): string => {
    if (!isBelow(path, PLACES.arriving)) throw new Failure('served/outside', { path });
    return path.slice(PLACES.arriving.length + 1);
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
    async fetch({ files, frames, beside, token: session, bytesPerSecond }, progress, signal) {
      const asked: ServedFetch = {
        ...{ root, folder, beside, token: session, bytesPerSecond },
        files: files.map((file) => ({ ...file, sources: file.sources.map((source) => source ?? null) })),
        frames: frames?.map(({ prefix, parts, ...frame }) => ({ ...frame, prefix: [...prefix], parts: [...parts] })),
      };
      const init = { method: 'POST', headers: { [SERVED_TOKEN_HEADER]: token }, body: JSON.stringify(asked), signal };
      for await (const some of servedValues(await request('/served/fetch', init), ServedFetchNewsSchema, signal)) {
        for (const value of some) {
          if ('failed' in value) return value;
          if ('code' in value) throw failureFromWire(value);
          progress(value);
        }
      }
      throw new Failure('service/unreachable', { url: '/served/fetch' });
    },
    state: async () => ServedStateSchema.parse(await (await ask('state')).json()),
    list,
    view: async () => StoreViewSchema.parse(await (await ask('view')).json()),
    async journal(set) {
      const found = ServedJournalSchema.nullable().parse(await (await ask('journal', { set })).json());
      if (!found) return undefined;
      const { way, begunAt, endedAt, leaves, ...rest } = found;
      return { ...rest, way, begunAt, endedAt, leaves };
    },
    mirror: async () =>
      z
        .string()
        .nullable()
        .parse(await (await ask('mirror')).json()) ?? undefined,
    keepsakes: async () => KeepsakeListSchema.parse(await (await ask('keepsakes')).json()),
    keepsake: async (id) => KeepsakeSchema.nullable().parse(await (await ask('keepsake', { id })).json()) ?? undefined,
    async sources(without) {
      const answer = await ask('sources', without === undefined ? {} : { without });
      const { keys, paths } = ServedSourcesSchema.parse(await answer.json());
      return new Map(keys.map((key, i) => [key, paths[i]!]));
    },
    async stat(path) {
      const size = sizes.get(path);
      // A part that an earlier fetch left is fetched anew: its bytes are not read back through the page.
      return size === undefined ? undefined : { path, size, modified: 0 };
    },
    open: (path) => at(path).open(path.replace(TREE, '')),
    read: (path, start, end) => at(path).read(path.replace(TREE, ''), start, end),
    writeAt,
    writeWhole: (path, bytes) => writeAt(path, 0, bytes),
    // What is put down from its beginning on takes the place of what was there.
    remove: async (path) => void sizes.delete(path),
    async takeIn(name, key) {
      await ask('arrival', {}, { method: 'POST', body: JSON.stringify({ name, key }) });
      sizes.delete(arrivingPath(name));
    },
  };
}
