import { inLanes } from '#core/calls';
import { batches, hashWishes } from '~/jobs/kinds/batches';
import { SERVED_BATCH } from '~/places/source';
import { servedFolder } from '~/folders/served-folder';
import type { FolderEntry } from '#core/folders';

/** Lists a served folder. @param base address of the server */
export function openServed(base: string, root: string, token: string): ReturnType<typeof servedFolder> {
  const { fetch } = globalThis;
  // The adapter asks by addresses of its own page.
  globalThis.fetch = ((url: string, init?: RequestInit) => fetch(new URL(url, base), init)) as typeof globalThis.fetch;
  return servedFolder({ kind: 'served', root, folder: '', token });
}

/** Hashes all files in the batches and lanes of the job that surveys. @returns files that were hashed */
export async function hashAll(
  folder: ReturnType<typeof servedFolder>,
  entries: readonly FolderEntry[],
): Promise<number> {
  const { signal } = new AbortController();
  let files = 0;
  const work = entries.flatMap(({ path, size }) => hashWishes(path, size).map((wish) => ({ ...wish, size })));
  await inLanes(batches(work, SERVED_BATCH), 4, { gate: async () => undefined }, async (batch) => {
    const outcomes = await folder.hash(batch, signal, () => undefined);
    files += outcomes.filter((outcome) => 'pieces' in outcome).length;
  });
  return files;
}
