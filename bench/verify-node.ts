import { createHash } from 'node:crypto';
import { open, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { OpenFile } from '#core/folders';
import { hashFile } from '~/workers/look-tasks';
import { eachFile } from '~/workers/each-file';
import { BUILDS, createDemoWorld, DEMO_SEED, type DemoScale, DEPOTS } from '#demo';

const sha256 = async (data: Uint8Array | string): Promise<string> => createHash('sha256').update(data).digest('hex');

/** All files below a folder. Links are not followed. */
export async function filesBelow(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name));
}

async function openFile(path: string): Promise<OpenFile> {
  const handle = await open(path);
  const { size } = await handle.stat();
  return {
    size,
    async read(start, end) {
      const buffer = new Uint8Array(Math.max(0, Math.min(end, size) - start));
      const { bytesRead } = await handle.read(buffer, 0, buffer.length, start);
      return buffer.subarray(0, bytesRead);
    },
    close: () => void handle.close(),
  };
}

/** Hashes files as Survey does. @returns bytes */
export async function hashFiles(paths: readonly string[]): Promise<number> {
  const { signal } = new AbortController();
  const ports = { reader: { open: openFile }, sha256, progress: () => undefined, signal };
  let bytes = 0;
  await eachFile(paths, signal, async (path) => {
    bytes += (await hashFile({ path, size: 0 }, ports)).size;
  });
  return bytes;
}

/** The tree that the browser makes, as files for the reference. */
export function demoFiles(scale: DemoScale): { path: string; read: () => Uint8Array }[] {
  const world = createDemoWorld(DEMO_SEED, scale);
  const build = BUILDS[7].label;
  return DEPOTS.flatMap(({ id }) =>
    world.files(build, id).map(({ path }) => ({ path: `${id}/${path}`, read: () => world.read(build, id, path) })),
  );
}
