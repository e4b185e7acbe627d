import 'fake-indexeddb/auto';
import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { asBuild, asDepot, DepotIndexSchema } from '#core/builds';
import type { BundleIndex } from '#core/bundles';
import { type ContentKey, contentKey } from '#core/digest';
import { diskContents, fetchTotals, whatToFetch, wireCost } from '#core/fetch';
import { manifestFiles, manifestFromFiles, writeMetalink } from '#core/manifest';
import { putManifest } from '~/store';
import { asksSources, askSources, withFrames } from './bundling';

const hash = (text: string | Uint8Array): string => createHash('sha256').update(text).digest('hex');

/** A depot of files of a hundred kilobytes, by their words. */
async function depotOf(build: string, words: readonly string[]) {
  const files = words.map((word, i) => {
    const sha256 = hash(word);
    return { path: `f${i}`, size: 100_000, sha256, pieces: [sha256], key: contentKey(100_000, [sha256]) };
  });
  const manifest = manifestFromFiles(asBuild(build), asDepot('core'), files);
  const sha256 = hash(writeMetalink(manifest, (path) => path));
  await putManifest(sha256, manifest);
  return { manifest, sha256 };
}

const WORDS = ['a', 'b', 'c', 'd', 'e', 'f'];
let nth = 0;
let asked: string[] = [];

/** Six files, of which the folder has other ones, and a source with two bundles, of which one builds on what the folder has. */
async function world(
  change: (index: BundleIndex) => unknown = (index) => index,
  send: (text: string) => Uint8Array = (text) => gzipSync(text),
  givesParts = true,
) {
  const at = `/from/typed/http/source-${++nth}`;
  const name = `${nth}`;
  const [old, now] = [
    await depotOf(`old ${name}`, WORDS),
    await depotOf(
      `new ${name}`,
      WORDS.map((word) => `new ${word}`),
    ),
  ];
  const delta: BundleIndex = {
    ...{
      format: 'regressum-bundle',
      version: 1,
      build: old.manifest.build,
      depot: asDepot('core'),
      manifest: old.sha256,
    },
    from: { build: now.manifest.build, manifest: now.sha256 },
    frames: [{ length: 5000, parts: [0, 1, 2, 3], prefix: [0, 1, 2, 3] }],
  };
  const { from: _, ...rest } = delta;
  const whole = { ...rest, frames: [{ length: 9000, parts: [4, 5] }] };
  const texts = new Map([
    [`${at}/delta.json`, JSON.stringify(change(delta))],
    [`${at}/whole.json`, JSON.stringify(whole)],
  ]);
  asked = [];
  vi.stubGlobal('fetch', async (href: string) => {
    asked.push(href.slice(at.length + 1));
    const text = texts.get(href);
    if (text !== undefined) return new Response(new Uint8Array(send(text)));
    const headers = { 'Content-Range': 'bytes 0-0/5000' };
    return givesParts ? new Response('x', { status: 206, headers }) : new Response('all of it');
  });
  const bundle = (kind: string, text: string | undefined) => ({
    ...{ href: `${at}/${kind}.zst`, index: `${at}/${kind}.json`, ...(text && { sha256: hash(text) }) },
  });
  const entry = (build: string, sha256: string, more = {}) => ({
    ...{ build, depot: 'core', href: 'm', filesHref: `${at}/files/`, sha256, files: 6, bytes: 600_000, ...more },
  });
  const index = DepotIndexSchema.parse({
    ...{ format: 'regressum-depot-index', version: 1, game: { id: 'g', title: 'G', rules: { own: [] } } },
    builds: [old, now].map(({ manifest: { build } }, i) => ({ label: build, date: `2026-01-0${i + 1}` })),
    branches: [],
    depots: [{ id: 'core', title: 'Core', kind: 'core', order: 1, orderMatters: false }],
    manifests: [
      entry(old.manifest.build, old.sha256, {
        bundles: [
          { ...bundle('whole', texts.get(`${at}/whole.json`)) },
          { ...bundle('delta', texts.get(`${at}/delta.json`)), from: now.manifest.build },
        ],
      }),
      entry(now.manifest.build, now.sha256),
    ],
  });
  const contents = diskContents(manifestFiles(now.manifest));
  const files = manifestFiles(old.manifest).map((file) => ({
    ...{ path: file.path, size: file.size, key: file.key, sha256: file.sha256, href: `${at}/files/${file.path}` },
    owner: { kind: 'depot' as const, depot: asDepot('core') },
  }));
  const stored = new Map<ContentKey, string>();
  return {
    ...{ here: { index, depots: index.depots }, build: old.manifest.build },
    ...{ items: whatToFetch(files, { contents, stored }), atHand: { tree: 't', pathOf: contents.pathOf, stored } },
  };
}

beforeEach(() => vi.unstubAllGlobals());
afterEach(() => vi.unstubAllGlobals());

it('asks for what builds on what is had first, and for everything only where much is left', async () => {
  const wish = await world();
  const before = await withFrames(wish);
  expect(await asksSources(wish, before)).toBe(true);
  expect(wireCost(before.items, before.frames)).toMatchObject({ plain: 600_000, compressed: 0 });
  expect(await askSources(wish)).toBeUndefined();
  // Then one of them for its first byte.
  expect(asked).toEqual(['delta.json', 'whole.json', 'whole.zst']);
  const planned = await withFrames(wish);
  expect(wireCost(planned.items, planned.frames)).toEqual({ plain: 0, compressed: 14_000, requests: 2 });
  expect(fetchTotals(planned.items)).toMatchObject({ toFetch: 600_000, rebuilt: 400_000, compressed: 200_000 });
  expect(planned.frames[0]!.prefix[0]).toEqual({ path: 'trees/t/f0', start: 0, end: 100_000 });
  expect(await asksSources(wish, planned)).toBe(false);
  // What is known is not asked for again.
  await askSources(wish);
  expect(asked).toHaveLength(3);
});

it('asks a source that gives no parts for bundles as a whole', async () => {
  const wish = await world(undefined, undefined, false);
  expect(await askSources(wish)).toBeUndefined();
  const planned = await withFrames(wish);
  expect(await asksSources(wish, planned)).toBe(false);
  expect(planned.frames.map(({ inWhole }) => inWhole)).toEqual([true, true]);
  expect(planned.items.every(({ source }) => source.how === 'fetch' && source.inWhole)).toBe(true);
  expect(wireCost(planned.items, planned.frames)).toEqual({ plain: 0, compressed: 14_000, requests: 2 });
  // Of one file alone no bundle is worth it.
  expect(wireCost(planned.items.slice(5), planned.frames)).toMatchObject({ plain: 0, compressed: 9000 });
});

it('asks a source again after a while whether it gives parts, and one that was silent only when all are asked', async () => {
  vi.useFakeTimers({ toFake: ['Date'] });
  try {
    const wish = await world(undefined, undefined, false);
    await askSources(wish);
    expect(await asksSources(wish, await withFrames(wish))).toBe(false);
    vi.advanceTimersByTime(60_000);
    expect(await asksSources(wish, await withFrames(wish))).toBe(true);
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('nobody there')));
    await askSources(wish);
    expect(await asksSources(wish, await withFrames(wish))).toBe(false);
    const headers = { 'Content-Range': 'bytes 0-0/5000' };
    vi.stubGlobal('fetch', async () => new Response('x', { status: 206, headers }));
    await askSources(wish);
    const { items, frames } = await withFrames(wish);
    expect(frames.map(({ inWhole }) => inWhole)).toEqual([undefined, undefined]);
    expect(items.some(({ source }) => source.how === 'fetch' && source.inWhole)).toBe(false);
  } finally {
    vi.useRealTimers();
  }
});

it('takes an index that a server has unpacked already, and one of which no digest is told', async () => {
  const wish = await world(undefined, (text) => Buffer.from(text));
  expect(await askSources(wish)).toBeUndefined();
  expect((await withFrames(wish)).frames).toHaveLength(2);
  const bare = await world();
  for (const bundle of bare.here.index.manifests[0]!.bundles!) delete bundle.sha256;
  expect(await askSources(bare)).toBeUndefined();
  expect((await withFrames(bare)).frames).toHaveLength(2);
});

it.each<[string, (index: BundleIndex) => unknown, ((text: string) => Uint8Array) | undefined, object]>([
  ['is another one', (index) => index, (text) => gzipSync(`${text} `), { code: 'source/not-as-expected' }],
  ['is broken', (index) => index, (text) => gzipSync(text).subarray(0, 60), { code: 'source/not-as-expected' }],
  ['expands without end', (index) => index, () => gzipSync(Buffer.alloc(70 << 20)), { code: 'source/not-as-expected' }],
  ['is no index', () => ({ some: 'thing' }), undefined, { code: 'json/does-not-fit' }],
  [
    'is of another manifest',
    (index) => ({ ...index, manifest: hash('x') }),
    undefined,
    { code: 'bundle/does-not-fit' },
  ],
  [
    'is against another build than was said',
    (index) => ({ ...index, from: { ...index.from!, build: 'other' } }),
    undefined,
    { code: 'bundle/does-not-fit', facts: { problem: 'is against other' } },
  ],
  [
    'is against other files of that build',
    (index) => ({ ...index, from: { ...index.from!, manifest: hash('x') } }),
    undefined,
    { code: 'bundle/does-not-fit' },
  ],
  [
    'reads outside of what it builds on',
    (index) => ({ ...index, frames: [{ length: 9, parts: [0], prefix: [[0, 5, 200_000]] }] }),
    undefined,
    { code: 'bundle/does-not-fit', facts: { frame: 0 } },
  ],
  [
    'claims gigabytes',
    (index) => ({ ...index, frames: [{ length: 9, parts: Array.from({ length: 4000 }, () => 0) }] }),
    undefined,
    { code: 'bundle/does-not-fit', facts: { problem: 'unpacks to 400000000 bytes' } },
  ],
])('an index that %s is told, and its files come as they are', async (_, change, send, failure) => {
  const wish = await world(
    change,
    send && ((text: string) => (text.includes('"from"') || text.includes('some') ? send(text) : gzipSync(text))),
  );
  expect(await askSources(wish)).toMatchObject(failure);
  const planned = await withFrames(wish);
  expect(fetchTotals(planned.items)).toMatchObject({ rebuilt: 0, compressed: 200_000, toFetch: 600_000 });
  expect(wireCost(planned.items, planned.frames)).toMatchObject({ plain: 400_000 });
});
