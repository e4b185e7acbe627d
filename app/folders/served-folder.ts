import { z } from 'zod';
import { contentNameOf } from '#core/contents';
import { Failure, isFailure } from '#core/failure';
import { type ServedHash, ServedEntrySchema, ServedHashSchema, SERVED_TOKEN_HEADER } from '#core/served';
import { folderOf } from '#core/paths';
import { request } from '~/remote';
import { type FolderEntry, type FolderReader, type ListListener, LOOK_ONLY } from '#core/folders';

/** A folder on the machine that runs the server, below one of the roots that were named at its start. */
export interface ServedPlace {
  readonly kind: 'served';
  readonly root: string;
  readonly folder: string;
  readonly token: string;
  /** The contents that the folder's store keeps are meant, by their names. */
  readonly contents?: true;
}

const RoomSchema = z.object({ free: z.number(), used: z.number() });

/**
 * The values of an answer that has one JSON value a line, as many at a time as have come.
 * @throws Failure `job/cancelled` when `signal` stopped it, `service/unreachable` when it broke off
 */
export async function* servedValues<Schema extends z.ZodType>(
  response: Response,
  schema: Schema,
  signal?: AbortSignal,
): AsyncGenerator<z.output<Schema>[]> {
  let rest = '';
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  for (;;) {
    const { done, value } = await reader.read().catch((cause: unknown) => {
      throw signal?.aborted
        ? new Failure('job/cancelled', {}, { cause })
        : new Failure('service/unreachable', { url: response.url }, { cause });
    });
    if (done) break;
    const lines = (rest + value).split('\n');
    rest = lines.pop()!;
    yield lines.map((line) => schema.parse(JSON.parse(line)));
  }
}

/**
 * The folder as the server answers for it.
 * @param whereOf what to ask for a file's bytes; those of the folder itself, where left out
 * @throws Failure `served/*` and those of every folder
 */
export function servedFolder(
  { root, folder, token }: ServedPlace,
  whereOf = (path: string): [what: string, more: Record<string, string>] => ['file', { path }],
): FolderReader & Required<Pick<FolderReader, 'hash'>> {
  const headers = { [SERVED_TOKEN_HEADER]: token };
  const ask = (what: string, more: Record<string, string> = {}, init: RequestInit = {}): Promise<Response> =>
    request(`/served/${what}?${new URLSearchParams({ root, folder, ...more })}`, {
      ...init,
      headers: { ...headers, ...(init.headers as Record<string, string> | undefined) },
    });

  async function range(
    path: string,
    start: number,
    end: number,
  ): Promise<{ bytes: Uint8Array<ArrayBuffer>; size: number }> {
    if (end <= start) return { bytes: new Uint8Array(0), size: 0 };
    const last = end === Infinity ? '' : end - 1;
    const response = await ask(...whereOf(path), { headers: { Range: `bytes=${start}-${last}` } }).catch((error) => {
      // What lies behind a file's end has no bytes.
      if (isFailure(error, 'service/failed') && error.facts.status === 416) return undefined;
      throw error;
    });
    if (!response) return { bytes: new Uint8Array(0), size: 0 };
    const bytes = new Uint8Array(await response.arrayBuffer());
    const [, size] = /\/(\d+)$/.exec(response.headers.get('Content-Range') ?? '') ?? [];
    return { bytes, size: size === undefined ? bytes.length : Number(size) };
  }

  /** @param below a folder of this one; that it is not there is no error for any but the whole */
  async function entries(below: string, { found, refused }: ListListener = {}): Promise<FolderEntry[]> {
    const all: FolderEntry[] = [];
    const named = (path: string): string => [below, path].filter((part) => part !== '').join('/');
    const at = { folder: [folder, below].filter((part) => part !== '').join('/') };
    const answer = await ask('list', at).catch((error: unknown) => {
      if (below !== '' && (isFailure(error, 'folder/not-found') || isFailure(error, 'folder/not-a-file')))
        return undefined;
      throw error;
    });
    if (!answer) return [];
    for await (const some of servedValues(answer, ServedEntrySchema)) {
      for (const entry of some) {
        if ('code' in entry) refused?.(named(entry.path), entry.code);
        else all.push({ ...entry, path: named(entry.path) });
      }
      found?.(some.length);
    }
    return all.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  /** Size and time of one file; undefined where none lies. */
  async function entry(path: string): Promise<FolderEntry | undefined> {
    const above = folderOf(path);
    return (await entries(above)).find((one) => one.path === path);
  }

  return {
    can: { ...LOOK_ONLY, freeSpace: true },
    list: (below = '', listener) => entries(below, listener),
    stat: entry,
    async open(path) {
      // The first byte is asked for so that the size is known, and a file that is not there is refused at once.
      const { size } = await range(path, 0, 1);
      return {
        size,
        read: async (start, end) => (await range(path, start, Math.min(size, end))).bytes,
        close: () => undefined,
      };
    },
    read: async (path, start = 0, end = Infinity) => (await range(path, start, end)).bytes,
    async room() {
      try {
        return RoomSchema.parse(await (await ask('room')).json());
      } catch (error) {
        if (isFailure(error)) return undefined;
        throw error;
      }
    },
    async hash(files, signal: AbortSignal, told) {
      const body = JSON.stringify({ root, folder, files });
      const outcomes: (ServedHash | undefined)[] = files.map(() => undefined);
      const init = { method: 'POST', body, signal };
      for await (const some of servedValues(await ask('hash', {}, init), ServedHashSchema, signal)) {
        for (const outcome of some) {
          outcomes[outcome.index] = outcome;
          told(outcome);
        }
      }
      const whole = outcomes.filter((outcome) => outcome !== undefined);
      if (whole.length < files.length) throw new Failure('service/unreachable', { url: '/served/hash' });
      return whole;
    },
  };
}

/** The contents that the store of a folder keeps, as the server hands them out by name. */
export const servedContents = (place: ServedPlace): ReturnType<typeof servedFolder> =>
  servedFolder(place, (path) => ['content', { name: contentNameOf(path) }]);
