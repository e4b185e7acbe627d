import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { arrivals, arrivingPath, contentPath } from '#core/contents';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { type Folder, memoryFolder } from '#core/folders';
import { filling } from '../testing/filling';
import { bring } from './bring';
import type { BringPorts, PieceNews } from './bring-ports';
import type { HaulFile } from './hauls';
import type { ByteRange } from './runs';
import { Throttle } from './throttle';
import { cases } from '../testing/cases';

const hash = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');

/** Two pieces and a bit, each byte telling its place. */
const CONTENT = Uint8Array.from({ length: 2 * PIECE_SIZE + 5 }, (_, i) => (i * 7 + (i >> 11)) & 255);
const NAME = 'ab'.repeat(32);
const PART = arrivingPath(NAME);

function keyOf(content: Uint8Array, pieceSize = PIECE_SIZE) {
  const pieces = Array.from({ length: Math.max(1, Math.ceil(content.length / pieceSize)) }, (_, i) =>
    hash(content.subarray(i * pieceSize, (i + 1) * pieceSize)),
  );
  return contentKey(content.length, pieces, pieceSize);
}

const fileOf = (content: Uint8Array, more: Partial<HaulFile> = {}): HaulFile => ({
  ...{ name: NAME, href: '/x', size: content.length, key: keyOf(content), sources: [] },
  ...more,
});

async function* inChunks(bytes: Uint8Array<ArrayBuffer>, size = 70_001): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.slice(at, at + size);
}

type Answer = (range: ByteRange, nth: number, href: string) => Uint8Array<ArrayBuffer>;
const honest: Answer = ({ start, end }) => CONTENT.slice(start, end);

interface World {
  ports: BringPorts;
  /** What was asked for, in pieces where a part was; 'all' for a whole file. */
  asked: (readonly [number, number] | 'all')[];
  folder: Folder;
  told: PieceNews[];
  stop: AbortController;
  heard: number;
}

/** @param ranges whether the source gives parts */
function setUp(answer: Answer = honest, { ranges = true, size = CONTENT.length } = {}): World {
  const folder = memoryFolder();
  const stop = new AbortController();
  const world: World = { asked: [], folder, told: [], stop, heard: 0, ports: undefined as never };
  world.ports = {
    folder: arrivals(folder),
    from: folder,
    sha256: async (data) => hash(data),
    newHash() {
      const some = createHash('sha256');
      return { update: (bytes) => void some.update(bytes), digest: () => some.digest('hex') };
    },
    async open(href, range) {
      world.asked.push(range ? [range.start / PIECE_SIZE, Math.ceil(range.end / PIECE_SIZE)] : 'all');
      if (range && !ranges) throw new Failure('service/no-ranges', { url: href });
      const bytes = answer(range ?? { start: 0, end: size }, world.asked.length, href);
      return (async function* () {
        for await (const chunk of inChunks(bytes)) {
          world.heard += chunk.length;
          yield chunk;
        }
      })();
    },
    unpack: async () => undefined,
    wait: async () => undefined,
    now: () => 0,
    progress: (news) => world.told.push(news),
    signal: stop.signal,
  };
  return world;
}

const bringOne = ({ ports }: World, file = fileOf(CONTENT)) => bring({ files: [file] }, ports);
const there = async ({ folder }: World): Promise<string> => hash(await folder.read(contentPath(NAME)));
const isThere = async ({ folder }: World): Promise<boolean> => (await folder.stat(contentPath(NAME))) !== undefined;

it('a file comes whole by one request, each piece proven', async () => {
  const world = setUp();
  expect(await bringOne(world)).toEqual({
    ...{
      fetchedBytes: CONTENT.length,
      wireBytes: CONTENT.length,
      reusedBytes: 0,
      requests: 1,
      failed: [],
      wasBusy: false,
    },
  });
  expect([world.asked, await there(world)]).toEqual([['all'], hash(CONTENT)]);
  expect((await world.folder.list()).map(({ path }) => path)).toEqual([contentPath(NAME)]);
  expect(world.told.filter(({ state }) => state === 'checked').map(({ index }) => index)).toEqual([0, 1, 2]);
});

it('only the pieces that were wrong, or did not come, are asked for again', async () => {
  const world = setUp((range, nth) => {
    if (nth === 1) throw new Failure('service/failed');
    const bytes = honest(range, nth, '');
    if (nth === 2) bytes[PIECE_SIZE + 3]! ^= 1;
    return bytes;
  });
  const { wireBytes, wasBusy } = await bringOne(world);
  expect(world.asked).toEqual(['all', 'all', [1, 2]]);
  expect([await there(world), wireBytes, wasBusy]).toEqual([hash(CONTENT), CONTENT.length + PIECE_SIZE, true]);
});

it('a source that fails is waited for, longer each time; another one is asked at once, and waited for when all have failed', async () => {
  const waitsOf = async (file: Parameters<typeof bringOne>[1], failing: number): Promise<number[]> => {
    const waits: number[] = [];
    const world = setUp((range, nth) => {
      if (nth <= failing) throw new Failure('service/unreachable', { url: '/x' });
      return honest(range, nth, '');
    });
    const ports = { ...world.ports, wait: async (milliseconds: number) => void waits.push(milliseconds) };
    expect((await bringOne({ ...world, ports }, file)).failed).toEqual([]);
    return waits;
  };
  expect(await waitsOf(fileOf(CONTENT), 3)).toEqual([200, 400, 800]);
  expect(await waitsOf(fileOf(CONTENT, { mirrors: ['/other'] }), 3)).toEqual([200]);
});

it('a piece that stays wrong is named with its file, and all that is right is kept', async () => {
  const isSpoilt = ({ start }: ByteRange, at: number): boolean => start + at === PIECE_SIZE;
  const spoilt: Answer = (range) => honest(range, 0, '').map((byte, at) => (isSpoilt(range, at) ? byte ^ 1 : byte));
  const world = setUp(spoilt);
  const { failed } = await bringOne(world);
  expect(failed).toMatchObject([
    { file: 0, failure: { code: 'service/corrupt-piece', facts: { url: '/x', piece: 1 } } },
  ]);
  expect(await isThere(world)).toBe(false);
  const after = { ...setUp(), folder: world.folder };
  await bring({ files: [fileOf(CONTENT)] }, { ...after.ports, folder: arrivals(world.folder), from: world.folder });
  expect([after.asked, await there(after)]).toEqual([[[1, 2]], hash(CONTENT)]);
});

it('of a source that gives no parts the whole comes, and no more is heard than what is missing', async () => {
  const world = setUp(undefined, { ranges: false });
  await world.folder.writeAt(PART, PIECE_SIZE, CONTENT.slice(PIECE_SIZE));
  await bringOne(world);
  expect([world.asked, await there(world)]).toEqual([[[0, 1], 'all'], hash(CONTENT)]);
  expect(world.heard).toBeLessThan(PIECE_SIZE + 70_002);
});

it('a source that never ends, or ends early, is taken for what it is', async () => {
  const endless = setUp(() => new Uint8Array(CONTENT.length + (8 << 20)));
  expect((await bringOne(endless)).failed).toMatchObject([{ failure: { code: 'service/corrupt-piece' } }]);
  expect(endless.heard).toBeLessThan(5 * (CONTENT.length + 70_002));
  const short = setUp(({ start }) => CONTENT.slice(start, PIECE_SIZE + 5));
  expect((await bringOne(short)).failed).toMatchObject([{ failure: { code: 'service/failed' } }]);
  // What came before it broke off is not asked for again.
  expect(short.asked.slice(1)).toEqual([...Array(3).keys()].map(() => [1, 3]));
  for (const world of [endless, short]) expect(await isThere(world)).toBe(false);
});

it('what the source refuses is not asked for again, and other files come all the same', async () => {
  const world = setUp((range, nth, href) => {
    if (href === '/bad') throw new Failure('service/not-owned');
    return honest(range, nth, href);
  });
  const bad = fileOf(CONTENT, { name: 'cd'.repeat(32), href: '/bad' });
  const { failed, requests } = await bring({ files: [bad, fileOf(CONTENT)] }, world.ports);
  expect(failed).toMatchObject([{ file: 0, failure: { code: 'service/not-owned' } }]);
  expect([await there(world), requests]).toEqual([hash(CONTENT), 2]);
});

it('where one source fails, the others are asked for what is missing', async () => {
  const isSpoilt = ({ start }: ByteRange, at: number): boolean => start + at === PIECE_SIZE;
  const from: string[] = [];
  const world = setUp((range, nth, href) => {
    from.push(href);
    if (href === '/gone') throw new Failure('service/failed', { status: 404 });
    const bytes = honest(range, nth, href);
    return href === '/spoilt' ? bytes.map((byte, at) => (isSpoilt(range, at) ? byte ^ 1 : byte)) : bytes;
  });
  const file = fileOf(CONTENT, { href: '/gone', mirrors: ['/spoilt', '/right'] });
  expect((await bringOne(world, file)).failed).toEqual([]);
  expect([from, world.asked]).toEqual([
    ['/gone', '/spoilt', '/right'],
    ['all', 'all', [1, 2]],
  ]);
  const nowhere = fileOf(CONTENT, { name: 'cd'.repeat(32), href: '/gone', mirrors: ['/gone'] });
  expect((await bringOne(world, nowhere)).failed).toMatchObject([{ failure: { code: 'service/failed' } }]);
});

it('pieces come from the disk where they lie, but not one that has changed meanwhile', async () => {
  const world = setUp();
  await world.folder.writeWhole('old', CONTENT.slice(0, 2 * PIECE_SIZE));
  await world.folder.writeAt('old', PIECE_SIZE, Uint8Array.of(1, 2, 3));
  const sources = [{ path: 'old', start: 0 }, { path: 'old', start: PIECE_SIZE }, undefined];
  const brought = await bringOne(world, fileOf(CONTENT, { sources }));
  expect(brought).toMatchObject({ fetchedBytes: PIECE_SIZE + 5, reusedBytes: PIECE_SIZE, requests: 1 });
  expect([world.asked, await there(world)]).toEqual([[[1, 3]], hash(CONTENT)]);
  // Of a file that is nowhere else, that is the end of it.
  const only = fileOf(CONTENT, { sources, href: '' });
  await expect(bring({ files: [only] }, world.ports)).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
});

it('what a folder beside the disk cannot give is asked of the source', async () => {
  const world = setUp();
  const from = { open: () => Promise.reject(new Failure('service/unreachable', { url: '/served' })) };
  const sources = [{ path: 'beside/other/old', start: 0, beside: 'other' }, undefined, undefined];
  const file = fileOf(CONTENT, { sources });
  expect(await bring({ files: [file] }, { ...world.ports, from })).toMatchObject({ reusedBytes: 0, failed: [] });
  expect([world.asked, await there(world)]).toEqual([['all'], hash(CONTENT)]);
});

it('it stops when it is told to, and nothing half done is in place', async () => {
  const world = setUp((range) => {
    world.stop.abort();
    return honest(range, 0, '');
  });
  await expect(bringOne(world)).rejects.toMatchObject({ code: 'job/cancelled' });
  expect(await isThere(world)).toBe(false);
});

it('a part that is longer than its file is not gone on from', async () => {
  const world = setUp();
  await world.folder.writeWhole(PART, new Uint8Array([...CONTENT, 1]));
  await bringOne(world);
  expect([world.asked, await there(world)]).toEqual([['all'], hash(CONTENT)]);
});

it('a disk that fills ends it, and with room again it goes on where it was', async () => {
  const world = setUp();
  const full = new Failure('folder/full', { path: PART });
  const folder = filling(arrivals(world.folder), PIECE_SIZE, full);
  await expect(bring({ files: [fileOf(CONTENT)] }, { ...world.ports, folder })).rejects.toBe(full);
  expect(await isThere(world)).toBe(false);
  await bringOne(world);
  expect([world.asked, await there(world)]).toEqual([['all', [1, 3]], hash(CONTENT)]);
});

it('what another fetch has taken in meanwhile is here', async () => {
  const world = setUp();
  const taken = {
    ...arrivals(world.folder),
    async takeIn() {
      await world.folder.move(PART, contentPath(NAME));
      throw new Failure('folder/not-found', { path: PART });
    },
  };
  const { failed } = await bring({ files: [fileOf(CONTENT)] }, { ...world.ports, folder: taken });
  expect([failed, await there(world)]).toEqual([[], hash(CONTENT)]);
  const gone = { ...taken, takeIn: async () => Promise.reject(new Failure('folder/not-found', { path: PART })) };
  const other = setUp();
  const alone = bring(
    { files: [fileOf(CONTENT)] },
    { ...other.ports, folder: { ...gone, stat: async () => undefined } },
  );
  await expect(alone).rejects.toMatchObject({ code: 'folder/not-found' });
});

it('an empty file is asked of nobody', async () => {
  const world = setUp();
  await bringOne(world, fileOf(new Uint8Array(0)));
  expect([world.asked, await there(world)]).toEqual([[], hash('')]);
});

it('large files come by runs of neighbouring pieces, and large pieces are written as they come', async () => {
  const large = new Uint8Array(34 * PIECE_SIZE);
  for (let i = 0; i < 34; i++) large.fill(i + 1, i * PIECE_SIZE, (i + 1) * PIECE_SIZE);
  const world = setUp(({ start, end }) => large.slice(start, end), { size: large.length });
  const { requests, failed } = await bringOne(world, fileOf(large));
  expect([requests, failed, world.asked]).toEqual([
    2,
    [],
    [
      [0, 32],
      [32, 34],
    ],
  ]);
  expect(await there(world)).toBe(hash(large));
  const cut = setUp(({ start, end }) => large.slice(start, end), { size: large.length });
  await bringOne(cut, fileOf(large, { key: keyOf(large, 16 << 20) }));
  expect(await there(cut)).toBe(hash(large));
});

it('whatever goes wrong for a while, the file comes whole', async () => {
  const faults = fc.array(fc.constantFrom('well', 'fails', 'breaks off', 'wrong'), { maxLength: 6 });
  await fc.assert(
    fc.asyncProperty(faults, fc.boolean(), async (plan, ranges) => {
      const world = setUp(
        (range, nth) => {
          const bytes = honest(range, nth, '');
          const fault = nth % 2 === 0 ? 'well' : plan[nth >> 1];
          if (fault === 'fails') throw new Failure('service/unreachable', { url: '/x' });
          if (fault === 'wrong') bytes[bytes.length >> 1]! ^= 1;
          return fault === 'breaks off' ? bytes.slice(0, bytes.length >> 1) : bytes;
        },
        { ranges },
      );
      expect((await bringOne(world)).failed).toEqual([]);
      expect(await there(world)).toBe(hash(CONTENT));
    }),
    { numRuns: cases(10) },
  );
});

/** Bytes after so many that do not belong there. */
function shifted(bytes: Uint8Array, by: number): Uint8Array<ArrayBuffer> {
  const more = new Uint8Array(by + bytes.length);
  more.set(bytes, by);
  return more;
}

it('scripts of faults end in the right bytes or in what is named, and nothing right is asked for again', async () => {
  const cut = 1 << 16;
  const contents = [17 * cut + 9, 400_000, 300].map((size, i) => CONTENT.slice(i * 500, i * 500 + size));
  const files = contents.map((content, i) =>
    fileOf(content, {
      name: hash(`${i}`),
      href: `/${i}`,
      key: keyOf(content, content.length > PIECE_SIZE ? cut : undefined),
    }),
  );
  const fault = fc.constantFrom(
    'well',
    'well',
    'busy',
    'refused',
    'cut',
    'cut early',
    'wrong',
    'too much',
    'other place',
  );
  const script = fc.record({
    faults: fc.array(fault, { maxLength: 40 }),
    /** What it does once the script has ended. */
    then: fc.constantFrom('well', 'well', 'busy', 'wrong', 'refused'),
    ranges: fc.boolean(),
  });
  let [whole, named] = [0, 0];
  const play = async ({ faults, then, ranges }: { faults: string[]; then: string; ranges: boolean }) => {
    const right = new Set<string>();
    const world = setUp(
      ({ start, end }, nth, href) => {
        const file = Number(href.slice(1));
        const content = contents[file]!;
        const to = Math.min(end, content.length);
        if (ranges) {
          const pieces = Array.from({ length: Math.ceil((to - start) / cut) }, (_, i) => `${file} ${start / cut + i}`);
          expect(pieces.filter((piece) => right.has(piece))).toEqual([]);
        }
        const bytes = content.slice(start, to);
        switch (faults[nth - 1] ?? then) {
          case 'busy':
            throw new Failure('service/failed', { url: href, status: 503 });
          case 'refused':
            throw new Failure('service/failed', { url: href, status: 404 });
          case 'cut':
            return bytes.slice(0, bytes.length - 1);
          case 'cut early':
            return bytes.slice(0, bytes.length >> 2);
          case 'wrong':
            for (let at = 50; at < bytes.length; at += 100_000) bytes[at]! ^= 1;
            return bytes;
          case 'too much':
            return shifted(bytes, 9);
          case 'other place':
            return content.slice(1, 1 + bytes.length);
          default:
            return bytes;
        }
      },
      { ranges },
    );
    const progress = (news: PieceNews): void => {
      if (news.state === 'checked') right.add(`${news.file} ${news.index}`);
    };
    const { failed } = await bring({ files }, { ...world.ports, progress });
    const lost = new Set(failed.map(({ file }) => file));
    for (const [i, { name }] of files.entries()) {
      const entry = await world.folder.stat(contentPath(name));
      if (lost.has(i)) expect(entry).toBeUndefined();
      else expect(hash(await world.folder.read(contentPath(name)))).toBe(hash(contents[i]!));
    }
    whole += files.length - lost.size;
    named += lost.size;
  };
  await fc.assert(fc.asyncProperty(script, play), { numRuns: cases(60), seed: 20261127 });
  // Both ends are met.
  expect(Math.min(whole, named)).toBeGreaterThan(50);
});

it('no more comes than so many bytes a second', async () => {
  let now = 0;
  const throttle = new Throttle(1000, { now: () => now, wait: async (milliseconds) => void (now += milliseconds) });
  for (let i = 0; i < 10; i++) await throttle.take(500);
  expect(now).toBe(5000);
  now += 60_000;
  // What was not used is not saved up.
  await throttle.take(500);
  await throttle.take(500);
  expect(now).toBe(66_000);
});
