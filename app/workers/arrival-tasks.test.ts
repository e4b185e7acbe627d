import { arrivals } from '#core/contents';
import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { contentKey, keyPieces, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { memoryFolder } from '#core/folders';
import { takeIn, type DiskPorts } from './arrival-tasks';
import { hashFile, lookAtFolder } from './look-tasks';
import { streamSha256 } from '~/remote/stream-sha256';
import type { DiskProgress } from './protocol';

const sha256 = async (data: Uint8Array | string): Promise<string> => createHash('sha256').update(data).digest('hex');
const hash = (data: Uint8Array): string => createHash('sha256').update(data).digest('hex');

/** Two pieces and a bit, each byte telling its place. */
const CONTENT = Uint8Array.from({ length: 2 * PIECE_SIZE + 5 }, (_, i) => (i * 7 + (i >> 11)) & 255);
const KEY = contentKey(
  CONTENT.length,
  [0, 1, 2].map((i) => hash(CONTENT.subarray(i * PIECE_SIZE, (i + 1) * PIECE_SIZE))),
);

function setUp() {
  const stop = new AbortController();
  const folder = memoryFolder();
  const told: DiskProgress[] = [];
  const ports: DiskPorts = {
    folder: arrivals(folder),
    from: folder,
    sha256,
    newHash: streamSha256,
    open: () => Promise.reject(new Failure('service/unreachable', { url: '' })),
    getPack: async (hrefs) => new TextEncoder().encode(hrefs.join('')),
    unpack: async () => undefined,
    wait: async () => undefined,
    now: () => 0,
    progress: (progress) => told.push(progress),
    signal: stop.signal,
  };
  return { ports, folder, stop, told };
}

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
