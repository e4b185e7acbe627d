import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import * as zstd from '@bokuweb/zstd-wasm';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { BEFORE_PREFIX, BundleIndexSchema, framesOf, type IndexPart, layoutFrames, unpacking } from '#core/bundles';
import { arrivals, arrivingPath, contentPath } from '#core/contents';
import { contentKey, keyPieces, PIECE_SIZE, pieceRange } from '#core/digest';
import { Failure, type FailureCode } from '#core/failure';
import { type Folder, memoryFolder } from '#core/folders';
import { manifestFromFiles } from '#core/manifest';
import { filling } from '../testing/filling';
import { bring } from './bring';
import type { BringPorts, Brought, PieceNews } from './bring-ports';
import { framesFor, haulFrames, type OfferedFrame, type Planned, planFrames, wireCost } from './by-frames';
import { haulsOf } from './hauls';
import type { ByteRange } from './runs';
import { diskContents, type FetchItem, whatToFetch } from './what-to-fetch';
import { cases } from '../testing/cases';

beforeAll(() => zstd.init());
// It is made ready once: to do so again would take its memory away from under it.
const unpackFrame = unpacking(async () => ({ ...zstd, init: async () => undefined }));

type Tree = ReadonlyMap<string, Uint8Array<ArrayBuffer>>;
const hash = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');

function described(path: string, bytes: Uint8Array) {
  const pieces = Array.from({ length: Math.max(1, Math.ceil(bytes.length / PIECE_SIZE)) }, (_, i) => {
    const { start, end } = pieceRange(bytes.length, i);
    return hash(bytes.subarray(start, end));
  });
  return { path, size: bytes.length, sha256: hash(bytes), pieces, key: contentKey(bytes.length, pieces) };
}
const describedAll = (tree: Tree) => [...tree].map(([path, bytes]) => described(path, bytes)).toSorted(byPath);
const byPath = (a: { path: string }, b: { path: string }): number => (a.path < b.path ? -1 : 1);
const manifestOf = (tree: Tree) => manifestFromFiles(asBuild('1.0'), asDepot('core'), describedAll(tree));

/** Text-like bytes: compressible, and every one of another word another. */
function bytesOf(word: string, size: number): Uint8Array<ArrayBuffer> {
  const text = Array.from({ length: 400 }, (_, i) => `${hash(`${word} ${i % 97}`).slice(0, 12)} ${i}\n`).join('');
  const from = new TextEncoder().encode(text);
  const bytes = new Uint8Array(size);
  // Each stretch begins one further on in the text, so that no two are at the same distance.
  for (let at = 0; at < size; at += 512) {
    for (let to = at; to < Math.min(at + 512, size);) {
      const start = (to + (at >> 9)) % from.length;
      const some = from.subarray(start, start + Math.min(at + 512, size) - to);
      bytes.set(some, to);
      to += some.length;
    }
  }
  return bytes;
}

function compressed(bytes: Uint8Array<ArrayBuffer>, prefix: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> {
  const context = zstd.createCCtx();
  try {
    return zstd.compressUsingDict(context, bytes, prefix, 3).slice();
  } finally {
    zstd.freeCCtx(context);
  }
}

/** The bundle of a tree against another one, as a source maker writes it. */
function bundled(
  href: string,
  tree: Tree,
  base: Tree | undefined,
): { bundle: Uint8Array<ArrayBuffer>; frames: OfferedFrame[] } {
  const [files, had] = [describedAll(tree), base && describedAll(base)];
  const join = (of: Tree, names: readonly { path: string }[], parts: readonly IndexPart[], before = 0) => {
    const all = parts.map((part) => {
      const [file, start, end] = typeof part === 'number' ? [part, 0, undefined] : part;
      return of.get(names[file]!.path)!.subarray(start, end);
    });
    return new Uint8Array(Buffer.concat([new Uint8Array(before), ...all]));
  };
  const laid = layoutFrames(files, had);
  const packed = laid.map(({ parts, prefix }) =>
    compressed(
      join(tree, files, parts),
      prefix.length > 0 ? join(base!, had!, prefix, BEFORE_PREFIX) : new Uint8Array(0),
    ),
  );
  const index = BundleIndexSchema.parse({
    ...{ format: 'regressum-bundle', version: 1, build: '1.0', depot: 'core', manifest: hash('m') },
    ...(base && { from: { build: '2.0', manifest: hash('b') } }),
    frames: laid.map((frame, i) => ({ length: packed[i]!.length, ...frame })),
  });
  const frames = framesOf(index, manifestOf(tree), base && manifestOf(base));
  return {
    bundle: new Uint8Array(Buffer.concat(packed)),
    frames: frames.map((frame) => ({ ...frame, href, baseHref: '/base/' })),
  };
}

const OWNER: FetchItem['owner'] = { kind: 'depot', depot: asDepot('core') };

/** A disk with one tree, and a source with another one and bundles of it. */
async function setUp(
  wanted: Tree,
  had: Tree,
  bundles: readonly ('delta' | 'whole')[] = ['delta', 'whole'],
  onDisk: Tree = had,
  isWholeOnly = false,
) {
  const folder = memoryFolder();
  for (const [path, bytes] of onDisk) await folder.writeWhole(path, bytes);
  const source = new Map<string, Uint8Array<ArrayBuffer>>();
  const offered = bundles.flatMap((kind) => {
    const { bundle, frames } = bundled(`/${kind}`, wanted, kind === 'delta' ? had : undefined);
    source.set(`/${kind}`, bundle);
    return isWholeOnly ? frames.map((frame) => ({ ...frame, inWhole: true })) : frames;
  });
  for (const [path, bytes] of wanted) source.set(`/files/${path}`, bytes);
  for (const [path, bytes] of had) source.set(`/base/${path}`, bytes);
  const files = describedAll(wanted).map((file) => ({ ...file, owner: OWNER, href: `/files/${file.path}` }));
  const contents = diskContents(describedAll(onDisk));
  const items = whatToFetch(files, { contents, stored: new Map() }).map((item) =>
    isWholeOnly && item.source.how === 'fetch' ? { ...item, source: { ...item.source, inWhole: true as const } } : item,
  );
  return { folder, source, planned: planFrames(items, offered, (key) => contents.pathOf.get(key)) };
}

type Fault = (href: string, nth: number, range?: ByteRange) => FailureCode | 'wrong' | 'cut' | undefined;

const nameOf = (sha256: string): string => hash(`name ${sha256}`);

/** Brings what is planned, haul after haul, as a job does. */
async function bringAll(
  {
    folder,
    source,
    planned: { items, frames },
  }: { folder: Folder; source: Map<string, Uint8Array<ArrayBuffer>>; planned: Planned },
  fault: Fault = () => undefined,
  more: Partial<BringPorts> = {},
) {
  const asked: string[] = [];
  const told: PieceNews[] = [];
  const ports: BringPorts = {
    ...{ folder: arrivals(folder), from: folder, sha256: async (data) => hash(data), now: () => 0 },
    newHash() {
      const some = createHash('sha256');
      return { update: (bytes) => void some.update(bytes), digest: () => some.digest('hex') };
    },
    unpack: unpackFrame,
    async open(href, range) {
      asked.push(href);
      const what = fault(href, asked.filter((one) => one === href).length, range);
      if (what !== undefined && what !== 'wrong' && what !== 'cut')
        throw new Failure(what as 'service/failed', { url: href });
      const bytes = source.get(href)!.slice(range?.start, range?.end);
      if (what === 'wrong') bytes[bytes.length >> 1]! ^= 0xff;
      const sent = what === 'cut' ? bytes.slice(0, bytes.length >> 1) : bytes;
      return (async function* () {
        for (let at = 0; at < sent.length; at += 50_001) yield sent.slice(at, at + 50_001);
      })();
    },
    ...{ wait: async () => undefined, progress: (news) => told.push(news), signal: new AbortController().signal },
    ...more,
  };
  const contents = [
    ...new Map(items.flatMap((item) => (item.source.how === 'fetch' ? [[item.sha256, item]] : []))).values(),
  ];
  const sum = { fetchedBytes: 0, reusedBytes: 0, wireBytes: 0, requests: 0, failed: 0 };
  for (const haul of haulsOf(contents, framesFor(contents, frames))) {
    const brought: Brought = await bring(
      {
        files: haul.files.map(({ sha256, href, size, key, source: { how, ...rest } }) => ({
          ...{ name: nameOf(sha256), href, size, key, inWhole: 'inWhole' in rest && rest.inWhole },
          sources:
            how === 'fetch' && 'pieces' in rest
              ? rest.pieces.map((one) => (typeof one === 'object' ? one : undefined))
              : [],
        })),
        frames: haulFrames(haul.frames, haul.files),
      },
      ports,
    );
    for (const what of ['fetchedBytes', 'reusedBytes', 'wireBytes', 'requests'] as const) sum[what] += brought[what];
    sum.failed += brought.failed.length;
  }
  return { ...sum, asked, told };
}

async function expectAll({ folder, planned: { items } }: Awaited<ReturnType<typeof setUp>>): Promise<void> {
  for (const { path, sha256, source } of items)
    if (source.how === 'fetch') expect(hash(await folder.read(contentPath(nameOf(sha256)))), path).toBe(sha256);
}

const [OLD, NEW]: readonly [Tree, Tree] = (() => {
  const small = Array.from(
    { length: 30 },
    (_, i) => [`text/${i}.txt`, bytesOf(`small ${i % 4}`, 4000 + 311 * i)] as const,
  );
  const large = bytesOf('large', 3 * PIECE_SIZE + 777);
  const altered = new Uint8Array(
    Buffer.concat([bytesOf('first', 900), large.subarray(0, 2 * PIECE_SIZE), bytesOf('more', 40_000)]),
  );
  const old = new Map<string, Uint8Array<ArrayBuffer>>([
    ...small,
    ['maps/world.bin', large],
    ['only/old.txt', bytesOf('gone', 90_000)],
  ]);
  const is = new Map<string, Uint8Array<ArrayBuffer>>([
    ...small.map(([path, bytes], i): [string, Uint8Array<ArrayBuffer>] => [
      path,
      i % 3 === 0 ? bytes : bytes.map((byte, at) => (at % 1009 === i ? byte ^ 1 : byte)),
    ]),
    ['maps/world.bin', altered],
  ]);
  return [old, is];
})();

describe('fetching by frames', () => {
  it('brings what is missing by what is had, and takes the bytes and requests that were planned', async () => {
    const world = await setUp(OLD, NEW);
    const cost = wireCost(world.planned.items, world.planned.frames);
    const { wireBytes, requests, failed, fetchedBytes } = await bringAll(world);
    expect([failed, wireBytes, requests]).toEqual([0, cost.plain + cost.compressed, cost.requests]);
    expect(wireBytes * 10).toBeLessThan(fetchedBytes);
    expect(requests).toBeLessThan(5);
    await expectAll(world);
  });

  it('brings everything compressed where nothing is had', async () => {
    const world = await setUp(OLD, new Map(), ['whole']);
    const { wireBytes, fetchedBytes } = await bringAll(world);
    expect(wireBytes * 4).toBeLessThan(fetchedBytes);
    await expectAll(world);
  });

  it('of part of it asks for the frames that are worth it, and for files by themselves otherwise', async () => {
    const { planned } = await setUp(OLD, new Map(), ['whole']);
    const alone = planned.items.filter(({ path }) => path === 'text/0.txt');
    expect(framesFor(alone, planned.frames)).toEqual([]);
    expect(wireCost(alone, planned.frames)).toEqual({ compressed: 0, plain: 4000, requests: 1 });
    const most = planned.items.filter(({ path }) => path !== 'text/0.txt');
    expect(wireCost(most, planned.frames)).toMatchObject({ plain: 0 });
  });

  it('asks for a bundle once where its source gives no parts, and reads it as far as it needs it', async () => {
    const noParts: Fault = (_href, _nth, range) => (range ? 'service/no-ranges' : undefined);
    const world = await setUp(OLD, NEW, ['delta'], NEW, true);
    const cost = wireCost(world.planned.items, world.planned.frames);
    const { failed, wireBytes, requests, asked, fetchedBytes } = await bringAll(world, noParts);
    expect([failed, requests, asked]).toEqual([0, 1, ['/delta']]);
    expect(cost).toEqual({ plain: 0, compressed: world.source.get('/delta')!.length, requests: 1 });
    expect(wireBytes).toBe(cost.compressed);
    expect(wireBytes * 10).toBeLessThan(fetchedBytes);
    await expectAll(world);
    // What builds on an altered file comes by itself, and where the bundle fails everything does.
    const altered = new Map([...NEW].map(([path, bytes]) => [path, path === 'text/1.txt' ? new Uint8Array(9) : bytes]));
    for (const fault of [noParts, (href) => (href === '/delta' ? 'service/refused' : undefined)] satisfies Fault[]) {
      const other = await setUp(OLD, NEW, ['delta', 'whole'], altered, true);
      expect((await bringAll(other, fault)).failed).toBe(0);
      await expectAll(other);
    }
    // A source that was thought to give parts, and does not.
    const unknown = await setUp(OLD, NEW);
    expect((await bringAll(unknown, noParts)).failed).toBe(0);
    await expectAll(unknown);
  });

  it('of a source that gives no parts takes files by themselves where these are smaller than the bundle', async () => {
    const { planned } = await setUp(OLD, new Map(), ['whole'], new Map(), true);
    const alone = planned.items.filter(({ path }) => path === 'text/0.txt');
    expect(framesFor(alone, planned.frames)).toEqual([]);
    expect(wireCost(alone, planned.frames)).toEqual({ compressed: 0, plain: 4000, requests: 1 });
    // Of a file of which the last piece is here all up to that comes.
    const large = planned.items.find(({ path }) => path === 'maps/world.bin')!;
    const pieces = keyPieces(large.key).map((_, i) => (i === 1 ? undefined : ('arrived' as const)));
    const one = { ...large, source: { how: 'fetch' as const, pieces, inWhole: true as const } };
    expect(wireCost([one])).toEqual({ compressed: 0, plain: 2 * PIECE_SIZE, requests: 1 });
  });

  it.each<[string, Fault, (asked: readonly string[]) => void]>([
    [
      'is busy for a while',
      (_, nth) => (nth < 3 ? 'service/failed' : undefined),
      (asked) => expect(asked.some((href) => href.startsWith('/files'))).toBe(false),
    ],
    [
      'breaks off once',
      (_, nth) => (nth === 1 ? 'cut' : undefined),
      (asked) => expect(asked.some((href) => href.startsWith('/files'))).toBe(false),
    ],
    ['sends wrong bytes once', (_, nth) => (nth === 1 ? 'wrong' : undefined), () => undefined],
    [
      'has no parts of bundles',
      (href) => (href === '/delta' ? 'service/no-ranges' : undefined),
      (asked) => expect(asked.some((href) => href.startsWith('/files'))).toBe(true),
    ],
    [
      'refuses its bundles',
      (href) => (href === '/delta' ? 'service/not-owned' : undefined),
      (asked) => expect(asked.filter((href) => href === '/delta').length).toBeLessThan(4),
    ],
    [
      'has other bundles by now',
      (href) => (href === '/delta' ? 'wrong' : undefined),
      (asked) => expect(asked.some((href) => href.startsWith('/files'))).toBe(true),
    ],
  ])('comes to its end where the source %s', async (_, fault, expected) => {
    const world = await setUp(OLD, NEW, ['delta']);
    const { failed, asked } = await bringAll(world, fault);
    expect(failed).toBe(0);
    expected(asked);
    await expectAll(world);
  });

  it('comes to its end where an index does not add up, and where bundles are compressed once more', async () => {
    const bundle = (await setUp(OLD, NEW, ['delta'])).source.get('/delta')!;
    const lies: ((frames: Planned['frames']) => Planned['frames'])[] = [
      // Frames that overlap in the bundle, leave a gap, lie behind its end, or unpack to something else.
      (frames) => frames.map((frame) => ({ ...frame, start: Math.max(0, frame.start - 7) })),
      (frames) => frames.map((frame) => ({ ...frame, start: frame.start + 7, end: frame.end + 7 })),
      (frames) => frames.map((frame) => ({ ...frame, end: frame.end + bundle.length })),
      (frames) => frames.map((frame) => ({ ...frame, size: frame.size + 1 })),
      // Parts that are said to be twice there, at places of others, or behind the end of what a frame unpacks to.
      (frames) => frames.map((frame) => ({ ...frame, parts: [...frame.parts, ...frame.parts] })),
      (frames) =>
        frames.map((frame) => ({ ...frame, parts: frame.parts.map((part) => ({ ...part, at: part.at + 1 })) })),
      (frames) =>
        frames.map((frame) => ({ ...frame, parts: frame.parts.map((part) => ({ ...part, at: frame.size })) })),
    ];
    for (const lie of lies) {
      const world = await setUp(OLD, NEW, ['delta']);
      const { items, frames } = world.planned;
      expect((await bringAll({ ...world, planned: { items, frames: lie(frames) } })).failed).toBe(0);
      await expectAll(world);
    }
    const world = await setUp(OLD, NEW, ['delta']);
    world.source.set('/delta', new Uint8Array(gzipSync(bundle)));
    expect((await bringAll(world)).failed).toBe(0);
    await expectAll(world);
  });

  it('comes to its end where what it builds on changes under way, is cut, or goes', async () => {
    const changes: ((folder: Folder) => Promise<void>)[] = [
      (folder) => folder.writeAt('maps/world.bin', 5, Uint8Array.of(1, 2, 3)),
      (folder) => folder.writeWhole('maps/world.bin', new Uint8Array(5)),
      (folder) => folder.remove('text/1.txt'),
    ];
    for (const change of changes) {
      const world = await setUp(OLD, NEW, ['delta']);
      await change(world.folder);
      expect((await bringAll(world)).failed).toBe(0);
      await expectAll(world);
    }
  });

  it('has what was altered of the build that frames build on come too, as long as that is worth it', async () => {
    const altered = new Map([...NEW].map(([path, bytes]) => [path, path === 'text/1.txt' ? new Uint8Array(9) : bytes]));
    const world = await setUp(OLD, NEW, ['delta'], altered);
    const cost = wireCost(world.planned.items, world.planned.frames);
    const { failed, wireBytes, requests, asked, fetchedBytes } = await bringAll(world);
    expect([failed, wireBytes, requests]).toEqual([0, cost.plain + cost.compressed, cost.requests]);
    expect(asked.filter((href) => href.startsWith('/base/'))).toEqual(['/base/text/1.txt']);
    expect(wireBytes * 10).toBeLessThan(fetchedBytes);
    await expectAll(world);
    // Where that cannot be had after all, files come by themselves.
    const without = await setUp(OLD, NEW, ['delta'], altered);
    without.source.delete('/base/text/1.txt');
    expect(
      (await bringAll(without, (href) => (href.startsWith('/base/') ? 'service/refused' : undefined))).failed,
    ).toBe(0);
    await expectAll(without);
  });

  it('goes on where it stopped, and asks for no frame of which all is there', async () => {
    const world = await setUp(OLD, NEW, ['delta']);
    const full = new Failure('folder/full', { path: '' });
    const folder = filling(arrivals(world.folder), 2 * PIECE_SIZE, full);
    await expect(bringAll(world, undefined, { folder })).rejects.toBe(full);
    const { told, failed } = await bringAll(world);
    expect(failed).toBe(0);
    expect(told.some(({ state }) => state === 'on-hand')).toBe(true);
    // What comes is told as that, whatever else its file needs.
    const last = new Map(told.map(({ file, index, state }) => [`${file} ${index}`, state]));
    expect(new Set(last.values())).toEqual(new Set(['on-hand', 'checked']));
    await expectAll(world);
    expect((await world.folder.list('arriving')).length).toBe(0);
    // Of a large file all of which is there nothing is asked for.
    const large = OLD.get('maps/world.bin')!;
    const whole = await setUp(new Map([['maps/world.bin', large]]), NEW, ['delta']);
    expect(whole.planned.frames.length).toBeGreaterThan(0);
    await whole.folder.writeWhole(arrivingPath(nameOf(hash(large))), large);
    expect((await bringAll(whole)).asked).toEqual([]);
    await expectAll(whole);
  });

  it('never unpacks what says that it is larger than its index has it, or is more than one frame', async () => {
    const world = await setUp(OLD, new Map(), ['whole']);
    const [first] = world.planned.frames as [Planned['frames'][number]];
    const bomb = compressed(new Uint8Array(64 << 20), new Uint8Array(0));
    const twice = new Uint8Array(Buffer.concat([compressed(new Uint8Array(first.size), new Uint8Array(0)), bomb]));
    for (const sent of [bomb, twice, new Uint8Array(500)]) {
      const frames = world.planned.frames.map((frame) => ({ ...frame, start: 0, end: sent.length }));
      const mean = {
        ...world,
        folder: memoryFolder(),
        planned: { items: world.planned.items, frames: frames.slice(0, 1) },
      };
      mean.source.set('/whole', sent);
      const unpacked: boolean[] = [];
      const { failed } = await bringAll(mean, undefined, {
        async unpack(frame, prefix, size) {
          const plain = await unpackFrame(frame, prefix, size);
          unpacked.push(plain !== undefined);
          return plain;
        },
      });
      // Of what is larger than it may be nothing is unpacked at all.
      expect([failed, unpacked]).toEqual([0, sent === twice ? [false, false] : []]);
      await expectAll(mean);
    }
  });

  it('is right whatever the two trees are', async () => {
    const trees = fc.dictionary(
      fc.stringMatching(/^[a-c]\/[a-d]\.(bin|txt)$/),
      fc.tuple(fc.constantFrom('x', 'y'), fc.constantFrom(0, 1, 700, 300_000, PIECE_SIZE, PIECE_SIZE + 1)),
      { maxKeys: 6 },
    );
    const made = (some: Record<string, [string, number]>): Tree =>
      new Map(Object.entries(some).map(([path, [word, size]]) => [path, bytesOf(word, size)]));
    await fc.assert(
      fc.asyncProperty(trees, trees, fc.boolean(), async (wanted, had, isWholeOnly) => {
        const world = await setUp(made(wanted), made(had), undefined, undefined, isWholeOnly);
        const cost = wireCost(world.planned.items, world.planned.frames);
        const { failed, wireBytes, requests } = await bringAll(world);
        expect([failed, wireBytes, requests]).toEqual([0, cost.plain + cost.compressed, cost.requests]);
        await expectAll(world);
      }),
      { numRuns: cases(8) },
    );
  });
});
