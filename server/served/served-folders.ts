import { close, read } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { promisify } from 'node:util';
import { Failure, failureToWire } from '#core/failure';
import { type ServedHashRequest, ServedHashRequestSchema, type ServedState } from '#core/served';
import { readBody } from '../http/body';
import { fileResponse, type ServedFile } from '../http/file-response';
import { assertMethod } from '../http/guard';
import type { HeldRoot } from './below';
import type { FolderThreads, LineSource } from './folder-threads';
import { FIRST_TREE } from './node-disk';
import type { Results } from './look-protocol';
import type { ServedChanges } from './served-changes';

const HASHED_AT_ONCE = 16;
const BATCHES_UNDER_WAY = 8;
/** A thousand paths of any script. */
const MAX_HASH_BODY = 4 << 20;

/** What is asked of a folder that may be changed. */
const CHANGING = new Set([
  'flags',
  'inspect',
  'state',
  'journal',
  'view',
  'mirror',
  'keepsakes',
  'keepsake',
  'sources',
  'store',
  'change',
  'fetch',
  'arrival',
]);

const readAt = promisify(read);

/** An answer of one JSON value a line, some lines at a time, sent as they are taken; the reader going away ends the work. */
function lines(source: LineSource): Response {
  const stream = new ReadableStream<string>(
    {
      async pull(controller) {
        try {
          const some = await source.next();
          if (some !== undefined) return controller.enqueue(some);
          await source.end();
          controller.close();
        } catch (error) {
          await source.end();
          throw error;
        }
      },
      cancel: () => source.end(),
    },
    { highWaterMark: 0 },
  );
  return new Response(stream.pipeThrough(new TextEncoderStream()), {
    headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store, no-transform' },
  });
}

/** Outcomes as the threads have them; not in the order of the files. */
function hashes({ folder, files }: ServedHashRequest, root: HeldRoot, threads: FolderThreads): LineSource {
  const running = new Set<Promise<void>>();
  const ready: string[] = [];
  let [next, ended] = [0, false];
  const hashSome = (): void => {
    const start = next;
    const some = files.slice(start, (next += HASHED_AT_ONCE));
    const work = threads
      .run({ do: 'hash', root, folder, files: some })
      .catch((error: unknown) => some.map(() => ({ code: failureToWire(error).code })))
      .then((outcomes) => {
        running.delete(work);
        ready.push(...outcomes.map((outcome, i) => `${JSON.stringify({ index: start + i, ...outcome })}\n`));
      });
    running.add(work);
  };
  return {
    async next() {
      // Only so much is under way that a reader who goes away stops the rest soon.
      while (!ended && next < files.length && running.size < BATCHES_UNDER_WAY) hashSome();
      if (ready.length === 0 && running.size > 0) await Promise.race(running);
      return ready.length === 0 ? undefined : ready.splice(0).join('');
    },
    async end() {
      ended = true;
    },
  };
}

/** An open file as it is served; what ends earlier than it was is an error, not a shorter file. */
function servedFile({ fd, size, etag }: Results['open'], path: string): ServedFile {
  return {
    size,
    etag,
    async read(start, end) {
      const chunk = new Uint8Array(end - start);
      const { bytesRead } = await readAt(fd, chunk, 0, chunk.length, start);
      if (bytesRead === 0) throw new Failure('folder/changed-meanwhile', { path });
      return chunk.subarray(0, bytesRead);
    },
    // Without a callback, a failure to close would end the process.
    close: () => close(fd, () => undefined),
  };
}

async function room({ path }: HeldRoot): Promise<Response> {
  const { bavail, bsize, blocks } = await statfs(path);
  return Response.json({ free: bavail * bsize, used: (blocks - bavail) * bsize });
}

/** Answers for the folders below the roots: `roots`, `list`, `file` and `content` (with ranges), `hash` and `room`. */
export class ServedFolders {
  constructor(
    private readonly roots: readonly HeldRoot[],
    private readonly threads: FolderThreads,
    /** Undefined where the server was not started to write. */
    private readonly changes?: ServedChanges,
  ) {}

  #root(path: string): HeldRoot {
    const root = this.roots.find((held) => held.path === path);
    if (!root) throw new Failure('served/outside', { path });
    return root;
  }

  #change(request: Request, what: string): Promise<Response> {
    if (this.changes) return this.changes.answer(request, what, (path) => this.#root(path));
    if (what !== 'state') throw new Failure('served/no-write');
    assertMethod(request, 'GET');
    const state: ServedState = {
      ...{ write: false, current: FIRST_TREE, swaps: false, store: '', inGame: true, free: 0 },
      ...{ open: [], stamp: '' },
    };
    return Promise.resolve(Response.json(state));
  }

  /** @throws Failure `served/*`, `changes/*`, `folder/*`, `json/*`, `request/*` */
  async answer(request: Request, what: string): Promise<Response> {
    const { searchParams } = new URL(request.url);
    const given = (name: string): string => searchParams.get(name) ?? '';
    if (CHANGING.has(what)) return this.#change(request, what);
    if (what === 'hash') assertMethod(request, 'POST');
    else assertMethod(request, 'GET', 'HEAD');
    switch (what) {
      case 'roots':
        return Response.json({ roots: this.roots.map(({ path }) => path) });
      case 'list':
        return lines(await this.threads.list(this.#root(given('root')), given('folder')));
      case 'file': {
        const path = [given('folder'), given('path')].filter(Boolean).join('/');
        const open = await this.threads.run({ do: 'open', root: this.#root(given('root')), path });
        return fileResponse(request, servedFile(open, path));
      }
      case 'content': {
        if (!this.changes) throw new Failure('served/no-write');
        const content = this.changes.contentAt(this.#root(given('root')), given('folder'), given('name'));
        const open = await this.threads.run({ do: 'open', ...content });
        return fileResponse(request, servedFile(open, content.path));
      }
      case 'room':
        return room(this.#root(given('root')));
      case 'hash': {
        const asked = await readBody(request, ServedHashRequestSchema, MAX_HASH_BODY);
        return lines(hashes(asked, this.#root(asked.root), this.threads));
      }
      default:
        throw new Failure('demo/unknown-file', { path: what });
    }
  }
}
