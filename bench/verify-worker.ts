import { PIECE_SIZE } from '#core/digest';
import { browserDisk } from '~/folders';
import { eachFile } from '~/workers/each-file';
import { lookAtFolder } from '~/workers/look-tasks';
import type { HashResult } from '~/workers/protocol';
import { platformSha256 } from '~/remote/sha256';
import { BUILDS, createDemoWorld, DEMO_SEED, type DemoScale, DEPOTS } from '#demo';

/*
 * What the browser does in bench/verify: makes the demo's tree on its private disk, and hashes it with the very task
 * that Survey runs. Each message is answered with one.
 */
const DISK = 'bench-verify';
const disk = browserDisk(DISK);
const BUILD = BUILDS[7].label;

/** Work on each of some files. */
interface WithFiles {
  readonly do: 'hash' | 'open';
  readonly files: readonly { path: string; size: number }[];
}

type Message =
  { do: 'digest'; pieces: number } | { do: 'make'; scale: DemoScale; part: number; parts: number } | WithFiles;

async function make({
  scale,
  part,
  parts,
}: Extract<Message, { do: 'make' }>): Promise<{ path: string; size: number }[]> {
  const world = createDemoWorld(DEMO_SEED, scale);
  const files = DEPOTS.flatMap(({ id }) => world.files(BUILD, id).map((file) => ({ ...file, depot: id })));
  const mine = files.filter((_, i) => i % parts === part);
  for (const { depot, path } of mine) await disk.writeWhole(`${depot}/${path}`, world.read(BUILD, depot, path));
  return mine.map(({ depot, path, size }) => ({ path: `${depot}/${path}`, size }));
}

async function hash({ files }: WithFiles): Promise<number> {
  const result = await lookAtFolder(
    { do: 'hash', place: { kind: 'browser-disk', disk: DISK }, files },
    { reader: disk, sha256: platformSha256, progress: () => undefined, signal: new AbortController().signal },
  );
  return (result as HashResult).contents.filter((content) => content !== undefined).length;
}

/** Opens and closes each file as hashing does, and reads nothing. */
async function openAll({ files }: WithFiles): Promise<number> {
  await eachFile(files, new AbortController().signal, async ({ path, size }) => (await disk.open(path, size)).close());
  return files.length;
}

/** Hashes the same piece again and again: what the browser's digest gives when no disk is in its way. */
async function digest({ pieces }: Extract<Message, { do: 'digest' }>): Promise<number> {
  const piece = new Uint8Array(PIECE_SIZE);
  for (let i = 0; i < pieces; i++) await platformSha256(piece);
  return pieces;
}

async function answer(message: Message): Promise<unknown> {
  switch (message.do) {
    case 'make':
      return make(message);
    case 'hash':
      return hash(message);
    case 'open':
      return openAll(message);
    case 'digest':
      return digest(message);
  }
}

self.onmessage = async ({ data }: MessageEvent<Message>): Promise<void> => {
  // What fails has to be answered too: the page would wait for ever.
  self.postMessage(
    await answer(data).then(
      (value) => ({ value }),
      (error: unknown) => ({ failed: String(error) }),
    ),
  );
};
