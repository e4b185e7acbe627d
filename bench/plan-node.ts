import 'fake-indexeddb/auto';
import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { asBuild, asDepot, DepotIndexSchema } from '#core/builds';
import { layoutFrames } from '#core/bundles';
import { PIECE_SIZE, pieceCount } from '#core/digest';
import { diskContents, fetchTotals, haulsOf, whatToFetch, wireCost } from '#core/fetch';
import { type Manifest, manifestFiles, manifestFromFiles, parseMetalink, writeMetalink } from '#core/manifest';
import { askSources, withFrames } from '~/queries/bundling';
import { putManifest } from '~/store';
import { randomFrom } from './random';

/* A way back between two builds of so many files, of which a fifth has changed: planned by what a source says of its bundles. */

const DEPOT = asDepot('core');
const sha = (text: string): string => createHash('sha256').update(text).digest('hex');

/** A manifest as it comes over the wire. */
function manifestText(files: number, build: string, isChanged: (i: number) => boolean): string {
  const random = randomFrom(7);
  const all = Array.from({ length: files }, (_, i) => {
    // Most files are small, some are large, as games have them.
    const size = Math.round(i % 500 === 0 ? 200e6 * random() : 200e3 * random() ** 3) + 1;
    const word = `${i} ${isChanged(i) ? build : ''}`;
    const pieces = Array.from({ length: pieceCount(size) }, (__, piece) => sha(`${word} ${piece}`));
    const path = `data/part-${i % 97}/file-${String(i).padStart(6, '0')}.bin`;
    return { path, size, pieces, sha256: size <= PIECE_SIZE ? pieces[0]! : sha(word) };
  });
  return writeMetalink(manifestFromFiles(asBuild(build), DEPOT, all), (path) => path);
}

export async function setUp(files: number) {
  const changed = (i: number): boolean => i % 5 === 0;
  const texts = { old: manifestText(files, '1', changed), now: manifestText(files, '2', changed) };
  const begun = performance.now();
  const read = (text: string, build: string): Manifest => parseMetalink(text, asBuild(build), DEPOT, 'm');
  const [old, now] = [read(texts.old, '1'), read(texts.now, '2')];
  const readSeconds = (performance.now() - begun) / 1000;
  await putManifest(sha(texts.old), old);
  await putManifest(sha(texts.now), now);
  const frames = layoutFrames(manifestFiles(old), manifestFiles(now), PIECE_SIZE * 2).map((frame) => ({
    ...{ length: 40_000, parts: frame.parts },
    ...(frame.prefix.length > 0 && { prefix: frame.prefix }),
  }));
  const text = JSON.stringify({
    ...{ format: 'regressum-bundle', version: 1, build: '1', depot: DEPOT, manifest: sha(texts.old) },
    ...{ from: { build: '2', manifest: sha(texts.now) }, frames },
  });
  const packed = gzipSync(text);
  const firstByte = { status: 206, headers: { 'Content-Range': 'bytes 0-0/1' } };
  globalThis.fetch = async (href) => (href === '/b.zst' ? new Response('x', firstByte) : new Response(packed));
  const entry = (build: string, manifest: string) => ({
    ...{ build, depot: DEPOT, href: 'm', filesHref: `/f/${build}/`, sha256: sha(manifest), files, bytes: 1 },
  });
  const index = DepotIndexSchema.parse({
    ...{ format: 'regressum-depot-index', version: 1, game: { id: 'g', title: 'G', rules: { own: [] } } },
    builds: ['1', '2'].map((label) => ({ label, date: `2026-01-0${label}` })),
    branches: [],
    depots: [{ id: DEPOT, title: 'Core', kind: 'core', order: 1, orderMatters: false }],
    manifests: [
      { ...entry('1', texts.old), bundles: [{ href: '/b.zst', index: '/b.json.gz', from: '2', sha256: sha(text) }] },
      entry('2', texts.now),
    ],
  });
  return { index, old, now, readSeconds, indexBytes: packed.length };
}

/** Plans, from what is in the store to what is asked for. */
export async function plan({ index, old, now }: Awaited<ReturnType<typeof setUp>>) {
  const contents = diskContents(manifestFiles(now));
  const files = manifestFiles(old).map((file) => ({
    ...{ path: file.path, size: file.size, key: file.key, sha256: file.sha256, href: `/f/1/${file.path}` },
    owner: { kind: 'depot' as const, depot: DEPOT },
  }));
  const stored = new Map();
  const wish = {
    ...{ here: { index, depots: index.depots }, build: asBuild('1') },
    ...{ items: whatToFetch(files, { contents, stored }), atHand: { tree: 't', pathOf: contents.pathOf, stored } },
  };
  const failure = await askSources(wish);
  if (failure) throw new Error(JSON.stringify(failure));
  const planned = await withFrames(wish);
  const cost = wireCost(planned.items, planned.frames);
  const coming = planned.items.filter(({ source }) => source.how === 'fetch');
  const hauls = haulsOf(coming, planned.frames).length;
  return { frames: planned.frames.length, hauls, toFetch: fetchTotals(planned.items).toFetch, ...cost };
}
