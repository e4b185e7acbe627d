import { on } from 'node:events';
import { open, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Failure } from '#core/failure';
import { type ServedHashRequest, ServedHashRequestSchema } from '#core/served';
import { readBody } from '../answers';
import { HashThreads } from './hash-threads';
import { placeBelow } from './roots';

const threads = new HashThreads();
const HASHED_AT_ONCE = 16;

/** An answer of one JSON value a line, some lines at a time, sent as they come; the reader going away ends the work. */
function lines(some: AsyncIterable<string>): Response {
  const iterator = some[Symbol.asyncIterator]();
  const stream = new ReadableStream<string>({
    async pull(controller) {
      const { done, value } = await iterator.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    async cancel() {
      await iterator.return?.();
    },
  });
  return new Response(stream.pipeThrough(new TextEncoderStream()), {
    headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store, no-transform' },
  });
}

async function* list(place: string): AsyncGenerator<string> {
  // The server is started from the project's folder, with the threads' files beside its source.
  const thread = new Worker(join(process.cwd(), 'server/served/list-thread.mjs'), { workerData: { place } });
  try {
    for await (const [some] of on(thread, 'message', { close: ['exit'] })) yield some as string;
  } finally {
    await thread.terminate();
  }
}

/** Outcomes as the threads have them; not in the order of the files. */
async function* hashes({ files }: ServedHashRequest, check: (path: string) => Promise<string>): AsyncGenerator<string> {
  const folders = new Map<string, Promise<string>>();
  const placed = await Promise.all(
    files.map(async ({ path, ...file }, index) => {
      const above = dirname(path);
      // Each folder is held against links once a request; a link in a file's own place the thread refuses by itself.
      if (!folders.has(above)) folders.set(above, check(above === '.' ? '' : above));
      return {
        ...file,
        index,
        place: join(await folders.get(above)!, path.slice(above === '.' ? 0 : above.length + 1)),
      };
    }),
  );
  const running = new Set<Promise<void>>();
  const ready: object[] = [];
  for (let start = 0; start < placed.length; start += HASHED_AT_ONCE) {
    const some = placed.slice(start, start + HASHED_AT_ONCE);
    const work = threads.hash(some).then((results) => {
      running.delete(work);
      ready.push(...results.map((result, i) => ({ index: some[i]!.index, ...result })));
    });
    running.add(work);
    // Whichever fails first is what the answer fails with; the others have nobody to tell.
    work.catch(() => undefined);
  }
  while (running.size > 0 || ready.length > 0) {
    if (ready.length === 0) await Promise.race(running);
    yield ready
      .splice(0)
      .map((outcome) => `${JSON.stringify(outcome)}\n`)
      .join('');
  }
}

async function bytes(request: Request, place: string, path: string): Promise<Response> {
  const file = await open(place, 'r');
  try {
    const { size } = await file.stat();
    const [, from, to] = /^bytes=(\d+)-(\d+)$/.exec(request.headers.get('Range') ?? '') ?? [];
    const start = Number(from ?? 0);
    const end = Math.min(size, to === undefined ? size : Number(to) + 1);
    if (start > end) throw new Failure('demo/bad-range', { path, expected: `within 0 to ${size}` });
    const buffer = new Uint8Array(end - start);
    const { bytesRead } = await file.read(buffer, 0, buffer.length, start);
    const headers = { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store', 'X-Size': String(size) };
    return new Response(buffer.subarray(0, bytesRead), { headers });
  } finally {
    await file.close();
  }
}

/**
 * Answers for the folders below the roots: `roots`, `list`, `file` (with a range), `hash` and `room`.
 * @throws Failure `served/outside`, `folder/*`, `json/*`
 */
export async function servedFolders(request: Request, what: string, roots: readonly string[]): Promise<Response> {
  const { searchParams } = new URL(request.url);
  const [root, folder, path] = ['root', 'folder', 'path'].map((name) => searchParams.get(name) ?? '') as [
    string,
    string,
    string,
  ];
  switch (what) {
    case 'roots':
      return Response.json({ roots });
    case 'list':
      return lines(list(await placeBelow(roots, root, folder)));
    case 'file':
      return bytes(request, await placeBelow(roots, root, [folder, path].filter(Boolean).join('/')), path);
    case 'room': {
      const { bavail, bsize, blocks } = await statfs(await placeBelow(roots, root, folder));
      return Response.json({ free: bavail * bsize, used: (blocks - bavail) * bsize });
    }
    case 'hash': {
      const asked = await readBody(request, ServedHashRequestSchema);
      const check = (below: string): Promise<string> =>
        placeBelow(roots, asked.root, [asked.folder, below].filter(Boolean).join('/'));
      await check('');
      return lines(hashes(asked, check));
    }
    default:
      throw new Failure('demo/unknown-file', { path: what });
  }
}
