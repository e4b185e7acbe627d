import 'fake-indexeddb/auto';
import { createHash } from 'node:crypto';
import { DepotIndexSchema } from '#core/builds';
import { BEFORE_PREFIX, unpacking } from '#core/bundles';
import { inLanes } from '#core/calls';
import { contentName, contentPath } from '#core/contents';
import { keyPieces, keyPieceSize } from '#core/digest';
import { parseJson } from '#core/json';
import { diskContents, fileHref, framesFor, haulFrames, haulsOf, isToCome, whatToFetch, wireCost } from '#core/fetch';
import { type Manifest, manifestFiles, parseMetalink } from '#core/manifest';
import { placeIndex } from '#core/sources';
import { treePath } from '~/folders';
import { servedStore } from '~/folders/served-store';
import { askSources, withFrames } from '~/queries/bundling';
import { platformSha256, readText, request, tellServedToken } from '~/remote';
import { putManifest } from '~/store';

/* Goes back to the first build of a source with what a served folder has, by the program's own planning and fetching. */

const MOST = 1 << 30;
const LANES = 4;

export interface Back {
  readonly base: string;
  readonly root: string;
  readonly token: string;
  /** Where the source lies, as the page asks for it. */
  readonly source: string;
  /** What the folder is; none where it is empty. */
  readonly had: string | undefined;
}

/** Reads the source's index and manifests, as they are known before anything is fetched. */
export async function readSource({ base, root, token, source, had }: Back) {
  const { fetch } = globalThis;
  globalThis.fetch = (input, init) => fetch(typeof input === 'string' ? new URL(input, base) : input, init);
  tellServedToken(token);
  const place = { prefix: source, path: '/index.json' };
  const text = await readText(await request(`${source}/index.json`), 'index', MOST);
  const index = placeIndex(parseJson(text, DepotIndexSchema, 'index'), place);
  const manifests = new Map<string, Manifest>();
  for (const { href, sha256, build, depot } of index.manifests) {
    const manifest = parseMetalink(await readText(await request(href), href, MOST), build, depot, href);
    await putManifest(sha256, manifest);
    manifests.set(build, manifest);
  }
  const store = servedStore({ kind: 'served', root, folder: '', token });
  return { index, manifests, store, tree: (await store.state()).current, had };
}

/** Plans the way back, asking for what the source has compressed. */
export async function planBack({ index, manifests, tree, had }: Awaited<ReturnType<typeof readSource>>) {
  const wanted = manifests.get('1')!;
  const entry = index.manifests.find(({ build }) => build === '1')!;
  const files = manifestFiles(wanted).map((file) => ({
    ...{
      path: file.path,
      size: file.size,
      key: file.key,
      sha256: file.sha256,
      href: fileHref(entry.filesHref, file.path),
    },
    owner: { kind: 'depot' as const, depot: entry.depot },
  }));
  const contents = diskContents(had === undefined ? [] : manifestFiles(manifests.get(had)!));
  const atHand = { tree, pathOf: contents.pathOf, stored: new Map() };
  const wish = {
    ...{ here: { index, depots: index.depots }, build: entry.build },
    ...{ items: whatToFetch(files, { contents, stored: new Map() }), atHand },
  };
  const failure = await askSources(wish);
  if (failure) throw new Error(JSON.stringify(failure));
  return withFrames(wish);
}

const unpack = unpacking(() => import('@bokuweb/zstd-wasm'));

/**
 * Rebuilds what frames bring, from bundles and files of this machine, each piece proven.
 * @param take gets what comes out, piece by piece
 * @returns seconds of rebuilding, reading what frames build on included, and of proving
 */
export async function rebuildAll(
  { items, frames }: Awaited<ReturnType<typeof planBack>>,
  bundleOf: (href: string) => Uint8Array<ArrayBuffer>,
  readPart: (path: string, start: number, into: Uint8Array) => void,
  take: (piece: Uint8Array) => void,
): Promise<{ rebuilding: number; proving: number }> {
  const keys = new Map(items.map(({ sha256, key }) => [sha256, key]));
  const taken = { rebuilding: 0, proving: 0 };
  for (const { href, start, end, size, prefix, parts: wanted } of frames) {
    const packed = bundleOf(href).slice(start, end);
    const begun = performance.now();
    const before = new Uint8Array(
      prefix.reduce((sum, part) => sum + part.end - part.start, prefix.length > 0 ? BEFORE_PREFIX : 0),
    );
    let at = BEFORE_PREFIX;
    for (const part of prefix) {
      if (!('path' in part)) throw new Error('the folder is not what frames build on');
      const end = at + part.end - part.start;
      readPart(part.path, part.start, before.subarray(at, end));
      at = end;
    }
    const plain = await unpack(packed, before, size);
    if (!plain) throw new Error(`a frame of ${href} does not unpack`);
    const rebuilt = performance.now();
    taken.rebuilding += rebuilt - begun;
    for (const part of wanted) {
      const key = keys.get(part.sha256)!;
      for (let from = part.start; from < part.end; from += keyPieceSize(key)) {
        const to = Math.min(part.end, from + keyPieceSize(key));
        const piece = plain.subarray(part.at + from - part.start, part.at + to - part.start);
        const digest = createHash('sha256').update(piece).digest('hex');
        if (digest !== keyPieces(key)[from / keyPieceSize(key)]) throw new Error('a piece is wrong');
        take(piece);
      }
    }
    taken.proving += performance.now() - rebuilt;
  }
  return { rebuilding: taken.rebuilding / 1000, proving: taken.proving / 1000 };
}

/** Fetches what was planned into the store of the folder. */
export async function fetchBack(
  { store, tree }: Awaited<ReturnType<typeof readSource>>,
  { items, frames }: Awaited<ReturnType<typeof planBack>>,
) {
  const coming = items.flatMap((item) => (item.source.how === 'fetch' ? [item] : []));
  const once = [...new Map(coming.map((item) => [item.sha256, item])).values()].toSorted((a, b) => b.size - a.size);
  const sum = { requests: 0, wireBytes: 0, failed: 0 };
  await inLanes(
    haulsOf(once, framesFor(once, frames)),
    LANES,
    { gate: () => undefined },
    async ({ files, frames: some }) => {
      const haul = await Promise.all(
        files.map(async ({ href, size, key, source }) => ({
          ...{ name: await contentName(key, platformSha256), href, size, key },
          sources: (source.how === 'fetch' ? source.pieces : []).map((piece) =>
            piece === 'arrived' || isToCome(piece) ? undefined : { ...piece, path: treePath(tree, piece.path) },
          ),
        })),
      );
      const { signal } = new AbortController();
      const brought = await store.fetch({ files: haul, frames: haulFrames(some, files) }, () => undefined, signal);
      sum.requests += brought.requests;
      sum.wireBytes += brought.wireBytes;
      sum.failed += brought.failed.length;
    },
  );
  const where = await Promise.all(
    items.map(async ({ path, key, source }) => ({
      path,
      at:
        source.how === 'fetch'
          ? { content: contentPath(await contentName(key, platformSha256)) }
          : 'path' in source
            ? { path: source.path }
            : {},
    })),
  );
  return { ...sum, planned: wireCost(items, frames), frames: frames.length, where };
}
