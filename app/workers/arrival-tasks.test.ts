import { arrivals } from '~/folders';
import { contentPath } from '#core/contents';
import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { contentKey, keyPieces, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { type Folder, memoryFolder } from '#core/folders';
import { takeIn, type DiskPorts } from './arrival-tasks';
import { hashFile, lookAtFolder } from './look-tasks';
import type { ArrivalTask, DiskProgress } from './protocol';

const sha256 = async (data: Uint8Array | string): Promise<string> => createHash('sha256').update(data).digest('hex');
const hash = (data: Uint8Array): string => createHash('sha256').update(data).digest('hex');

/** Two pieces and a bit, each byte telling its place. */
const CONTENT = Uint8Array.from({ length: 2 * PIECE_SIZE + 5 }, (_, i) => (i * 7 + (i >> 11)) & 255);
const KEY = contentKey(
  CONTENT.length,
  [0, 1, 2].map((i) => hash(CONTENT.subarray(i * PIECE_SIZE, (i + 1) * PIECE_SIZE))),
);

interface Service {
  /** Called for each request; what it returns is sent, and it may throw. */
  answer: (start: number, end: number, nth: number) => Uint8Array<ArrayBuffer>;
  asked: [number, number][];
  /** The whole file as it comes, for who asks for all of it. */
  stream: () => AsyncIterable<Uint8Array<ArrayBuffer>>;
}

async function* inChunks(bytes: Uint8Array<ArrayBuffer>, size = 70_001): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.slice(at, at + size);
}

const honest = (start: number, end: number): Uint8Array<ArrayBuffer> => CONTENT.slice(start, end);

function setUp(answer: Service['answer'] = honest): {
  ports: DiskPorts;
  service: Service;
  folder: Folder;
  stop: AbortController;
  told: DiskProgress[];
} {
  const service: Service = { answer, asked: [], stream: () => inChunks(CONTENT) };
  const stop = new AbortController();
  const folder = memoryFolder();
  const told: DiskProgress[] = [];
  const ports: DiskPorts = {
    folder: arrivals(folder),
    from: folder,
    sha256,
    getBytes: async (_href, size, { start = 0, end = size }) => {
      service.asked.push([start, end]);
      return service.answer(start, end, service.asked.length);
    },
    getStream: async () => service.stream(),
    getPack: async (hrefs) => new TextEncoder().encode(hrefs.join('')),
    wait: async () => undefined,
    progress: (progress) => told.push(progress),
    signal: stop.signal,
  };
  return { ports, service, folder, stop, told };
}

const NAME = 'ab'.repeat(32);

const task = (sources: Extract<ArrivalTask, { do: 'fetch' }>['sources'] = []): ArrivalTask => ({
  do: 'fetch',
  place: { kind: 'browser-disk', disk: 'd' },
  name: NAME,
  href: '/x',
  size: CONTENT.length,
  key: KEY,
  token: undefined,
  served: '',
  from: undefined,
  sources,
});

describe('fetching a file', () => {
  it('puts it in place whole, piece by piece', async () => {
    const { ports, service, folder } = setUp();
    await takeIn(task(), ports);
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
    expect(service.asked).toHaveLength(3);
    expect((await folder.list()).map(({ path }) => path)).toEqual([contentPath(NAME)]);
  });

  it('asks again for a corrupt piece and after a failure, and only for that piece', async () => {
    const { ports, service, folder, told } = setUp((start, end, nth) => {
      if (nth === 1) throw new Failure('service/failed');
      const bytes = honest(start, end);
      if (nth === 3) bytes[0]! ^= 1;
      return bytes;
    });
    await takeIn(task(), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([0, 0, 1, 1, 2]);
    expect(told.filter((p) => p.kind === 'piece' && p.state === 'failing')).toHaveLength(2);
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
  });

  it('gives up on a piece that stays corrupt, and keeps what is right', async () => {
    const { ports, service, folder } = setUp((start, end) =>
      start === 0 ? honest(start, end) : new Uint8Array(end - start),
    );
    await expect(takeIn(task(), ports)).rejects.toMatchObject({ code: 'service/corrupt-piece' });
    expect(await folder.stat(contentPath(NAME))).toBeUndefined();
    service.answer = honest;
    service.asked.length = 0;
    await takeIn(task(), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([1, 2]);
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
  });

  it('of a source that gives no parts asks for the whole once, and takes what is missing out of it', async () => {
    const { ports, service, folder } = setUp((start, end, nth) => {
      if (nth > 1) throw new Failure('service/no-ranges', { url: '/x' });
      return honest(start, end);
    });
    let streams = 0;
    service.stream = () => {
      streams += 1;
      const bytes = CONTENT.slice();
      // A byte of the last piece is wrong the first time.
      if (streams === 1) bytes[bytes.length - 1]! ^= 1;
      return inChunks(bytes);
    };
    await takeIn(task(), ports);
    expect([service.asked.length, streams]).toEqual([2, 2]);
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
  });

  it('of such a source hears no more than up to the last piece that is missing', async () => {
    const { ports, service, folder } = setUp(() => {
      throw new Failure('service/no-ranges', { url: '/x' });
    });
    // The later pieces are here from a try before.
    await folder.writeAt(`arriving/${NAME}`, 0, new Uint8Array(PIECE_SIZE));
    await folder.writeAt(`arriving/${NAME}`, PIECE_SIZE, CONTENT.slice(PIECE_SIZE));
    let heard = 0;
    service.stream = async function* () {
      for await (const chunk of inChunks(CONTENT)) {
        heard += chunk.length;
        yield chunk;
      }
    };
    await takeIn(task(), ports);
    expect(heard).toBeLessThan(PIECE_SIZE + 70_002);
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
  });

  it('of such a source that never ends hears no more than the file has', async () => {
    const { ports, service, folder } = setUp(() => {
      throw new Failure('service/no-ranges', { url: '/x' });
    });
    let chunks = 0;
    service.stream = async function* () {
      yield* inChunks(CONTENT.map((byte) => byte ^ 1));
      for (; chunks < 1000; chunks++) yield new Uint8Array(1000);
    };
    await expect(takeIn(task(), ports)).rejects.toMatchObject({ code: 'service/corrupt-piece' });
    expect(chunks).toBe(0);
    expect(await folder.stat(contentPath(NAME))).toBeUndefined();
  });

  it('of such a source takes no part for the whole, and keeps what came', async () => {
    const { ports, service, folder } = setUp(() => {
      throw new Failure('service/no-ranges', { url: '/x' });
    });
    service.stream = () => inChunks(CONTENT.slice(0, PIECE_SIZE + 5));
    await expect(takeIn(task(), ports)).rejects.toMatchObject({ code: 'service/failed' });
    expect(await folder.stat(contentPath(NAME))).toBeUndefined();
    service.answer = honest;
    service.asked.length = 0;
    await takeIn(task(), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([1, 2]);
  });

  it('does not repeat what the service refuses', async () => {
    const { ports, service } = setUp(() => {
      throw new Failure('service/not-owned');
    });
    await expect(takeIn(task(), ports)).rejects.toMatchObject({ code: 'service/not-owned' });
    expect(service.asked).toHaveLength(1);
  });

  it('takes pieces from disk, but not one that has changed meanwhile', async () => {
    const { ports, service, folder } = setUp();
    await folder.writeWhole('old', CONTENT.slice(0, 2 * PIECE_SIZE));
    await folder.writeAt('old', PIECE_SIZE, Uint8Array.of(1, 2, 3));
    const result = await takeIn(
      task([{ path: 'old', start: 0 }, { path: 'old', start: PIECE_SIZE }, undefined]),
      ports,
    );
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([1, 2]);
    expect(result).toEqual({ fetchedBytes: PIECE_SIZE + 5, reusedBytes: PIECE_SIZE });
    expect(hash(await folder.read(contentPath(NAME)))).toBe(hash(CONTENT));
  });

  it('stops when it is told to, and nothing half done is in place', async () => {
    const { ports, folder, stop } = setUp((start, end) => {
      stop.abort();
      return honest(start, end);
    });
    await expect(takeIn(task(), ports)).rejects.toMatchObject({ code: 'job/cancelled' });
    expect(await folder.stat(contentPath(NAME))).toBeUndefined();
  });
});

describe('looking at a folder', () => {
  it('hashes what is there and reports what is not, and goes on', async () => {
    const { ports, folder, told } = setUp();
    await folder.writeWhole('big', CONTENT.slice());
    await folder.writeWhole('empty', new Uint8Array(0));
    const files = ['big', 'gone', 'empty'].map((path) => ({ path, size: 1 }));
    const task = { do: 'hash', place: { kind: 'browser-disk', disk: 'd' }, files } as const;
    expect(await lookAtFolder(task, { ...ports, reader: folder })).toEqual({
      contents: [
        { size: CONTENT.length, pieces: keyPieces(KEY) },
        undefined,
        { size: 0, pieces: [hash(new Uint8Array(0))] },
      ],
      unreadable: [{ path: 'gone', failure: { code: 'folder/not-found', facts: { path: 'gone' } } }],
    });
    expect(told.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(CONTENT.length);
  });

  it('hashes a span of a file, and refuses it where the file is another one meanwhile', async () => {
    const { ports, folder } = setUp();
    await folder.writeWhole('big', CONTENT.slice());
    const span = { first: 1, end: 3 };
    const wish = { path: 'big', size: CONTENT.length, span };
    expect((await hashFile(wish, { ...ports, reader: folder })).pieces).toEqual(keyPieces(KEY).slice(1));
    await expect(hashFile({ ...wish, size: 5 }, { ...ports, reader: folder })).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path: 'big' },
    });
  });

  it('a file of exactly what is read at once has no empty piece behind it', async () => {
    const { ports, folder } = setUp();
    await folder.writeWhole('a', new Uint8Array(16 * PIECE_SIZE));
    const { pieces } = await hashFile({ path: 'a', size: 0 }, { ...ports, reader: folder });
    expect(pieces).toEqual(Array<string>(16).fill(hash(new Uint8Array(PIECE_SIZE))));
  });

  it('stops between two pieces when it is cancelled', async () => {
    const { ports, folder, stop } = setUp();
    await folder.writeWhole('a', new Uint8Array(16 * PIECE_SIZE));
    const progress = (): void => stop.abort();
    const work = hashFile({ path: 'a', size: 0 }, { ...ports, reader: folder, progress });
    await expect(work).rejects.toMatchObject({ code: 'job/cancelled' });
  });
});

it('cuts a pack into its files', async () => {
  const { ports, folder } = setUp();
  const files = ['one', 'three'].map((href) => ({ href, to: `t/${href}`, size: href.length }));
  await takeIn({ do: 'download', disk: 'd', files }, ports);
  for (const { href, to } of files) expect(new TextDecoder().decode(await folder.read(to))).toBe(href);
});
