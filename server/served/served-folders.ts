import { type Dirent } from 'node:fs';
import { open, readdir, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '#core/failure';
import { type ServedHashRequest, ServedHashRequestSchema } from '#core/served';
import { readBody } from '../answers';
import { HashThreads } from './hash-threads';
import { placeBelow } from './roots';

const threads = new HashThreads();
const HASHED_AT_ONCE = 16;
const STATS_AT_ONCE = 64;

/** An answer of one JSON value a line, sent as it comes; the reader going away ends the work. */
function lines(values: AsyncIterable<unknown>): Response {
  const encoder = new TextEncoder();
  const iterator = values[Symbol.asyncIterator]();
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { done, value } = await iterator.next();
      if (done) controller.close();
      else controller.enqueue(encoder.encode(`${JSON.stringify(value)}\n`));
    },
    async cancel() {
      await iterator.return?.();
    },
  });
  return new Response(stream, {
    headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store, no-transform' },
  });
}

/** Every file below a place, without links, and nothing that is no plain file. */
async function* walk(place: string, prefix: string): AsyncGenerator<{ place: string; path: string }> {
  // A folder that may not be read, or vanished, has nothing to list; its files are then absent.
  const entries = await readdir(place, { withFileTypes: true }).catch((): Dirent[] => []);
  for (const entry of entries) {
    const path = prefix === '' ? entry.name : `${prefix}/${entry.name}`;
    if (entry.isDirectory()) yield* walk(join(place, entry.name), path);
    else if (entry.isFile()) yield { place: join(place, entry.name), path };
  }
}

async function* list(place: string): AsyncGenerator<{ path: string; size: number; modified: number }> {
  let some: { place: string; path: string }[] = [];
  async function entries() {
    const told = await Promise.all(
      some.map(async (file) => ({ ...file, is: await stat(file.place).catch(() => undefined) })),
    );
    some = [];
    return told.flatMap(({ path, is }) => (is ? [{ path, size: is.size, modified: Math.round(is.mtimeMs) }] : []));
  }
  for await (const file of walk(place, '')) {
    some.push(file);
    if (some.length === STATS_AT_ONCE) yield* await entries();
  }
  yield* await entries();
}

/** Outcomes as the threads have them; not in the order of the files. */
async function* hashes({ files }: ServedHashRequest, check: (path: string) => Promise<string>) {
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
    yield* ready.splice(0);
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
