import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { createDCtx, decompressUsingDict, init } from '@bokuweb/zstd-wasm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { BEFORE_PREFIX, BundleIndexSchema, framesOf, type Part, unpackedSize } from '#core/bundles';
import { PIECE_SIZE } from '#core/digest';
import { manifestFiles, manifestFromFiles } from '#core/manifest';
import { type LyingDepot, makeBundle } from './make-bundles';
import { zstdThreads } from './zstd-threads.mjs';

/* Bundles as the maker of a source writes them, read back by the usual decoder. */

const EFFORT = { level: 9, wholeLevel: 9, lookBack: 2 << 20 };
let work: string;
const threads = zstdThreads();
beforeAll(async () => {
  work = mkdtempSync(join(tmpdir(), 'regressum-bundles-'));
  await init();
});
afterAll(async () => {
  await threads.end();
  rmSync(work, { recursive: true });
});

const sha = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Bytes that nothing makes smaller, the same for the same word. */
function bytesOf(word: string, length: number): Buffer {
  const blocks = Array.from({ length: Math.ceil(length / 64) }, (_, i) =>
    createHash('sha512').update(`${word} ${i}`).digest(),
  );
  return Buffer.concat(blocks).subarray(0, length);
}

function depotOf(build: string, files: Readonly<Record<string, Buffer>>): LyingDepot {
  const folder = join(work, build);
  const listed = Object.entries(files).map(([path, bytes]) => {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), bytes);
    const count = Math.max(1, Math.ceil(bytes.length / PIECE_SIZE));
    const pieces = Array.from({ length: count }, (_, i) => sha(bytes.subarray(i * PIECE_SIZE, (i + 1) * PIECE_SIZE)));
    return { path, size: bytes.length, sha256: sha(bytes), pieces };
  });
  return {
    folder,
    sha256: sha(Buffer.from(build)),
    manifest: manifestFromFiles(asBuild(build), asDepot('core'), listed),
  };
}

/** Every content that comes out of a bundle, by its key. */
async function unbundled(
  depot: LyingDepot,
  base?: LyingDepot,
): Promise<{ contents: Map<string, Buffer>; bytes: number }> {
  const made = (await makeBundle(work, depot, base, threads, EFFORT))!;
  const text = gunzipSync(readFileSync(join(work, made.index)));
  expect(sha(text)).toBe(made.sha256);
  const index = BundleIndexSchema.parse(JSON.parse(text.toString()));
  const bundle = readFileSync(join(work, made.href));
  const pathOf = new Map(base && manifestFiles(base.manifest).map(({ key, path }) => [key, join(base.folder, path)]));
  const had = ({ key, start, end }: Part): Buffer => readFileSync(pathOf.get(key)!).subarray(start, end);
  const contents = new Map<string, Buffer>();
  for (const { at, length, size, parts, prefix } of framesOf(index, depot.manifest, base?.manifest)) {
    const packed = bundle.subarray(at, at + length);
    expect(unpackedSize(packed)).toBe(size);
    const plain = decompressUsingDict(
      createDCtx(),
      packed,
      Buffer.concat([Buffer.alloc(BEFORE_PREFIX), ...prefix.map(had)]),
    );
    let from = 0;
    for (const { key, start, end } of parts) {
      const some = Buffer.from(plain.subarray(from, (from += end - start)));
      contents.set(key, Buffer.concat([contents.get(key) ?? Buffer.alloc(0), some]));
    }
  }
  return { contents, bytes: made.bytes };
}

const old = {
  'a/same.bin': bytesOf('same', 50_000),
  'a/grown.pak': bytesOf('grown', 6 << 20),
  // A prefix that begins as a dictionary does is none.
  'a/text.txt': Buffer.concat([Buffer.from([0x37, 0xa4, 0x30, 0xec]), bytesOf('text', 40_000)]),
};
const grown = Buffer.concat([
  old['a/grown.pak'].subarray(0, 3 << 20),
  bytesOf('middle', 70_000),
  old['a/grown.pak'].subarray(3 << 20),
]);
const fresh = {
  'a/same.bin': old['a/same.bin'],
  'a/grown.pak': grown,
  'a/text.txt': Buffer.concat([old['a/text.txt'], Buffer.from('more')]),
  'b/empty': Buffer.alloc(0),
  'b/new.bin': bytesOf('new', 30_000),
  'b/twice.bin': bytesOf('new', 30_000),
};

it('a bundle of all files unpacks to each of their contents', async () => {
  const depot = depotOf('1', fresh);
  const { contents } = await unbundled(depot);
  const wanted = new Map(
    manifestFiles(depot.manifest).map(({ key, path }) => [key as string, fresh[path as keyof typeof fresh]]),
  );
  wanted.delete(manifestFiles(depot.manifest).find(({ size }) => size === 0)!.key);
  const told = (some: ReadonlyMap<string, Buffer>) => new Map([...some].map(([key, bytes]) => [key, sha(bytes)]));
  expect(told(contents)).toEqual(told(wanted));
});

it('a bundle against another build has what is new, for what it costs', async () => {
  const [before, after] = [depotOf('2', old), depotOf('3', fresh)];
  const { contents, bytes } = await unbundled(after, before);
  expect([...contents.values()].map(({ length }) => length).toSorted((a, b) => a - b)).toEqual([
    30_000,
    40_008,
    grown.length,
  ]);
  expect([...contents.values()].some((one) => one.equals(grown))).toBe(true);
  // What came into the middle, and what is new.
  expect(bytes).toBeLessThan(70_000 + 30_000 + 10_000);
});

it('a depot in which nothing is new has no bundle, and one that has changed since is refused', async () => {
  const depot = depotOf('4', old);
  expect(await makeBundle(work, depot, depot, threads, EFFORT)).toBeUndefined();
  truncateSync(join(depot.folder, 'a/grown.pak'), 100);
  await expect(makeBundle(work, depot, undefined, threads, EFFORT)).rejects.toThrow(
    expect.objectContaining({ code: 'folder/changed-meanwhile', facts: { path: 'a/grown.pak' } }),
  );
});
