import { mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compressUsingDict, createCCtx, init } from '@bokuweb/zstd-wasm';
import { afterAll, afterEach, beforeAll, beforeEach, expect, it, vi } from 'vitest';
import { BEFORE_PREFIX } from '#core/bundles';
import { STORE_FOLDER } from '#core/changes';
import { contentName, contentPath } from '#core/contents';
import type { HaulFile, HaulFrame, PieceNews } from '#core/fetch';
import { servedStore } from '~/folders';
import { platformSha256 } from '~/remote/sha256';
import { keyOfText } from '../../core/testing/memory-disk';
import { type RunningServer, startServer } from '../testing/start-server';

/* A served folder's store gets what the server fetches for it. */

const TOKEN = 'a-token-of-this-start';
const CONTENTS = ['first', 'second', 'third'].map((word) => word.repeat(1000));
const { fetch } = globalThis;
const base = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-fetch-')));
/** A folder for each test, all of them served by one server. */
const rooms = Array.from({ length: 20 }, (_, i) => join(base, String(i)));
for (const room of rooms) mkdirSync(join(room, 'games/ferry'), { recursive: true });
let work: string;
let server: RunningServer;
let source: Server;
/** What came to the source: the path, and whether a token was shown. */
let asked: { path: string; token: string | undefined }[];
let answer: (path: string) => string | Uint8Array | undefined;

beforeAll(async () => {
  server = await startServer({ roots: rooms.map((room) => join(room, 'games')), token: TOKEN, write: true });
});
afterAll(async () => {
  await server.close();
  rmSync(base, { recursive: true });
});

beforeEach(async () => {
  work = rooms.pop()!;
  writeFileSync(join(work, 'games/ferry/a'), CONTENTS[0]!);
  writeFileSync(join(work, 'secret'), CONTENTS[0]!);
  asked = [];
  answer = (path) => CONTENTS[Number(path.slice(1))];
  source = createServer((request, response) => {
    asked.push({ path: request.url!, token: request.headers.authorization });
    const text = answer(request.url!);
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '');
    if (text === undefined) response.writeHead(404).end();
    else if (range && typeof text !== 'string') {
      const [start, end] = [Number(range[1]), Number(range[2]) + 1];
      response.writeHead(206, { 'Content-Range': `bytes ${start}-${end - 1}/${text.length}` });
      response.end(text.subarray(start, end));
    } else response.end(text);
  });
  await new Promise<void>((resolve) => source.listen(0, '127.0.0.1', resolve));
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) => fetch(new URL(url, server.base), init));
});
afterEach(async () => {
  vi.unstubAllGlobals();
  source.closeAllConnections();
  source.close();
});

const store = () => servedStore({ kind: 'served', root: join(work, 'games'), folder: 'ferry', token: TOKEN });
const href = (path: string): string => `/from/typed/http/127.0.0.1:${(source.address() as AddressInfo).port}${path}`;

async function wanted(i: number, more: Partial<HaulFile> = {}): Promise<HaulFile> {
  const key = keyOfText(CONTENTS[i]!);
  const name = await contentName(key, platformSha256);
  return { name, href: href(`/${i}`), size: CONTENTS[i]!.length, key, sources: [], ...more };
}

const bringing = (files: readonly HaulFile[], told: PieceNews[] = [], signal = new AbortController().signal) =>
  store().fetch({ files, token: 'of-a-sign-in' }, (news) => told.push(news), signal);
const inStore = ({ name }: HaulFile): string =>
  readFileSync(join(work, 'games/ferry', STORE_FOLDER, contentPath(name)), 'utf8');

it('goes from the source to the disk, and a sign-in is shown to nobody else', async () => {
  const files = await Promise.all([0, 1, 2].map((i) => wanted(i)));
  const told: PieceNews[] = [];
  const brought = await bringing(files, told);
  expect(brought).toMatchObject({ failed: [], requests: 3, wireBytes: CONTENTS.join('').length });
  expect(files.map(inStore)).toEqual(CONTENTS);
  expect(
    told
      .filter(({ state }) => state === 'checked')
      .map(({ file }) => file)
      .toSorted(),
  ).toEqual([0, 1, 2]);
  expect(asked.map(({ token }) => token)).toEqual([undefined, undefined, undefined]);
});

it('tells which file was not as it should be, and takes the others', async () => {
  answer = (path) => (path === '/1' ? 'wrong'.repeat(1200) : path === '/2' ? undefined : CONTENTS[0]);
  const files = await Promise.all([0, 1, 2].map((i) => wanted(i)));
  const { failed } = await bringing(files);
  expect(failed).toMatchObject([
    { file: 1, failure: { code: 'service/corrupt-piece' } },
    { file: 2, failure: { code: 'service/failed', facts: { status: 404 } } },
  ]);
  expect(inStore(files[0]!)).toBe(CONTENTS[0]);
  expect(() => inStore(files[1]!)).toThrow();
});

it('takes pieces from the game, and from nowhere else', async () => {
  const here = await wanted(0, { href: '', sources: [{ path: 'trees/t1/a', start: 0 }] });
  expect(await bringing([here])).toMatchObject({ reusedBytes: CONTENTS[0]!.length, requests: 0 });
  expect(inStore(here)).toBe(CONTENTS[0]);
  for (const path of ['../../secret', 'trees/t1/../../../../secret', '/etc/hostname', join(work, 'secret')]) {
    const outside = await wanted(0, { href: '', sources: [{ path, start: 0 }] });
    await expect(bringing([outside]), path).rejects.toThrow();
  }
});

it('is refused for a content by another name or size than its own, and for what is no address of ours', async () => {
  const bad = [
    { name: 'a'.repeat(64) },
    { size: 7 },
    { href: 'http://127.0.0.1:1/x' },
    { href: '//127.0.0.1:1/x' },
    { href: '/nowhere/1', mirrors: ['//127.0.0.1:1/x'] },
  ];
  for (const more of bad) {
    const file = await wanted(0, more);
    await expect(bringing([file]), JSON.stringify(more)).rejects.toMatchObject({ code: 'request/malformed' });
  }
  expect(asked).toEqual([]);
});

it('ends when nobody waits for it any more', async () => {
  const stop = new AbortController();
  answer = () => {
    stop.abort();
    return undefined;
  };
  await expect(bringing([await wanted(0)], [], stop.signal)).rejects.toMatchObject({ code: 'job/cancelled' });
});

it('of one content twice at once, by two pages, ends well for both', async () => {
  const file = await wanted(0);
  for (let i = 0; i < 5; i++) {
    rmSync(join(work, 'games/ferry', STORE_FOLDER), { recursive: true, force: true });
    for (const { failed } of await Promise.all([bringing([file]), bringing([file])])) expect(failed).toEqual([]);
    expect(inStore(file)).toBe(CONTENTS[0]);
  }
});

it('rebuilds by frames what builds on the game’s files, and reads nothing outside of these for it', async () => {
  const file = await wanted(1);
  const size = CONTENTS[1]!.length;
  await init();
  const before = Buffer.concat([Buffer.alloc(BEFORE_PREFIX), Buffer.from(CONTENTS[0]!)]);
  const packed = compressUsingDict(createCCtx(), Buffer.from(CONTENTS[1]!), before, 3).slice();
  answer = (path) => (path === '/b' ? packed : CONTENTS[Number(path.slice(1))]);
  const frame = (path: string): HaulFrame => ({
    ...{ href: href('/b'), start: 0, end: packed.length, size },
    prefix: [{ path, start: 0, end: CONTENTS[0]!.length }],
    parts: [{ file: 0, at: 0, start: 0, end: size }],
  });
  const bring = (...frames: readonly object[]) =>
    store().fetch({ files: [file], frames: frames as HaulFrame[] }, () => undefined, new AbortController().signal);
  expect(await bring(frame('trees/t1/a'))).toMatchObject({ failed: [], wireBytes: packed.length, requests: 1 });
  expect(inStore(file)).toBe(CONTENTS[1]);
  rmSync(join(work, 'games/ferry', STORE_FOLDER), { recursive: true });
  for (const path of ['../../secret', 'trees/t1/../../../../secret', join(work, 'secret')])
    await expect(bring(frame(path)), path).rejects.toThrow();
  // What does not come by the frame comes by itself.
  expect(await bring(frame('trees/t1/gone'))).toMatchObject({ failed: [], wireBytes: 2 * packed.length + size });
  expect(inStore(file)).toBe(CONTENTS[1]);
  const right = frame('trees/t1/a');
  for (const bad of [
    { parts: [{ file: 1, at: 0, start: 0, end: size }] },
    { end: 2 ** 40 },
    { end: 0 },
    { size: 2 ** 30 },
    { prefix: [{ path: 'trees/t1/a', start: 0, end: 2 ** 30 }] },
    { prefix: [{ path: 'trees/t1/a', start: 9, end: 1 }] },
  ])
    await expect(bring({ ...right, ...bad }), JSON.stringify(bad)).rejects.toMatchObject({ code: 'json/does-not-fit' });
});
