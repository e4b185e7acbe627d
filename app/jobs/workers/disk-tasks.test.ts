import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { type Folder, memoryFolder } from '~/folders';
import { changeDisk, type DiskPorts } from './disk-tasks';
import { hashFile, hashFiles } from './hash-files';
import type { ChangeTask, DiskProgress } from './protocol';

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
}

const honest = (start: number, end: number): Uint8Array<ArrayBuffer> => CONTENT.slice(start, end);

function setUp(answer: Service['answer'] = honest): {
  ports: DiskPorts;
  service: Service;
  folder: Folder;
  stop: AbortController;
  told: DiskProgress[];
} {
  const service: Service = { answer, asked: [] };
  const stop = new AbortController();
  const folder = memoryFolder();
  const told: DiskProgress[] = [];
  const ports: DiskPorts = {
    folder,
    sha256,
    getBytes: async (_href, size, { start = 0, end = size }) => {
      service.asked.push([start, end]);
      return service.answer(start, end, service.asked.length);
    },
    getPack: async (hrefs) => new TextEncoder().encode(hrefs.join('')),
    wait: async () => undefined,
    progress: (progress) => told.push(progress),
    signal: stop.signal,
  };
  return { ports, service, folder, stop, told };
}

const task = (sources: Extract<ChangeTask, { do: 'fetch' }>['sources'] = []): ChangeTask => ({
  do: 'fetch',
  disk: 'd',
  to: 'fetched/x',
  href: '/x',
  size: CONTENT.length,
  key: KEY,
  token: undefined,
  sources,
});

describe('fetching a file', () => {
  it('puts it in place whole, piece by piece', async () => {
    const { ports, service, folder } = setUp();
    await changeDisk(task(), ports);
    expect(hash(await folder.read('fetched/x'))).toBe(hash(CONTENT));
    expect(service.asked).toHaveLength(3);
    expect((await folder.list()).map(({ path }) => path)).toEqual(['fetched/x']);
  });

  it('asks again for a corrupt piece and after a failure, and only for that piece', async () => {
    const { ports, service, folder, told } = setUp((start, end, nth) => {
      if (nth === 1) throw new Failure('service/failed');
      const bytes = honest(start, end);
      if (nth === 3) bytes[0]! ^= 1;
      return bytes;
    });
    await changeDisk(task(), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([0, 0, 1, 1, 2]);
    expect(told.filter((p) => p.kind === 'piece' && p.state === 'failing')).toHaveLength(2);
    expect(hash(await folder.read('fetched/x'))).toBe(hash(CONTENT));
  });

  it('gives up on a piece that stays corrupt, and keeps what is right', async () => {
    const { ports, service, folder } = setUp((start, end) =>
      start === 0 ? honest(start, end) : new Uint8Array(end - start),
    );
    await expect(changeDisk(task(), ports)).rejects.toMatchObject({ code: 'service/corrupt-piece' });
    expect(await folder.stat('fetched/x')).toBeUndefined();
    service.answer = honest;
    service.asked.length = 0;
    await changeDisk(task(), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([1, 2]);
    expect(hash(await folder.read('fetched/x'))).toBe(hash(CONTENT));
  });

  it('does not repeat what the service refuses', async () => {
    const { ports, service } = setUp(() => {
      throw new Failure('service/not-owned');
    });
    await expect(changeDisk(task(), ports)).rejects.toMatchObject({ code: 'service/not-owned' });
    expect(service.asked).toHaveLength(1);
  });

  it('takes pieces from disk, but not one that has changed meanwhile', async () => {
    const { ports, service, folder } = setUp();
    await folder.writeWhole('old', CONTENT.slice(0, 2 * PIECE_SIZE));
    await folder.writeAt('old', PIECE_SIZE, Uint8Array.of(1, 2, 3));
    const result = await changeDisk(task([{ path: 'old', index: 0 }, { path: 'old', index: 1 }, undefined]), ports);
    expect(service.asked.map(([start]) => start / PIECE_SIZE)).toEqual([1, 2]);
    expect(result).toEqual({ fetchedBytes: PIECE_SIZE + 5, reusedBytes: PIECE_SIZE });
    expect(hash(await folder.read('fetched/x'))).toBe(hash(CONTENT));
  });

  it('stops when it is told to, and nothing half done is in place', async () => {
    const { ports, folder, stop } = setUp((start, end) => {
      stop.abort();
      return honest(start, end);
    });
    await expect(changeDisk(task(), ports)).rejects.toMatchObject({ code: 'job/cancelled' });
    expect(await folder.stat('fetched/x')).toBeUndefined();
  });
});

it('hashes what is there and reports what is not, and goes on', async () => {
  const { ports, folder } = setUp();
  await folder.writeWhole('big', CONTENT.slice());
  await folder.writeWhole('empty', new Uint8Array(0));
  const files = ['big', 'gone', 'empty'].map((path) => ({ path, size: 1 }));
  expect(await hashFiles({ files }, { ...ports, reader: folder })).toEqual({
    keys: [KEY, undefined, contentKey(0, [hash(new Uint8Array(0))])],
    sizes: [CONTENT.length, 1, 0],
    unreadable: [{ path: 'gone', failure: { code: 'folder/not-found', facts: { path: 'gone' } } }],
  });
});

it('a file of exactly what is read at once has no empty piece behind it', async () => {
  const folder = memoryFolder();
  await folder.writeWhole('a', new Uint8Array(16 * PIECE_SIZE));
  const { size, key } = await hashFile(folder, sha256, 'a');
  expect(key).toBe(contentKey(size, Array<string>(16).fill(hash(new Uint8Array(PIECE_SIZE)))));
});

it('lays files only when their bytes are still what they were', async () => {
  const { ports, folder } = setUp();
  await folder.writeWhole('old/a', CONTENT.slice());
  const lay = (to: string): ChangeTask => ({ do: 'lay', disk: 'd', files: [{ from: 'old/a', to, key: KEY }] });
  await changeDisk(lay('new/a'), ports);
  expect(hash(await folder.read('new/a'))).toBe(hash(CONTENT));
  await folder.writeAt('old/a', 0, Uint8Array.of(CONTENT[0]! ^ 1));
  await expect(changeDisk(lay('new/b'), ports)).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
  expect(await folder.stat('new/b')).toBeUndefined();
});

it('cuts a pack into its files', async () => {
  const { ports, folder } = setUp();
  const files = ['one', 'three'].map((href) => ({ href, to: `t/${href}`, size: href.length }));
  await changeDisk({ do: 'download', disk: 'd', files }, ports);
  for (const { href, to } of files) expect(new TextDecoder().decode(await folder.read(to))).toBe(href);
});
