import { contentName } from '#core/contents';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { type HaulFile, haulsOf } from '#core/fetch';
import { inLanes } from '#core/calls';
import { platformSha256 } from '~/remote/sha256';
import { servedStore } from '~/folders/served-store';

/** A file that a static server has. */
export interface Published {
  readonly href: string;
  readonly size: number;
  readonly sha256: string;
  /** SHA-256 of its pieces. */
  readonly pieces: readonly string[];
}

const LANES = 6;

/**
 * Has the server fetch files into the store of a served folder, as the job does. Addresses of the server's own are asked of it.
 * @param base address of the server
 */
export async function bringAll(
  base: string,
  { root, token }: { readonly root: string; readonly token: string },
  published: readonly Published[],
): Promise<{ requests: number; wireBytes: number; failed: number }> {
  const { fetch } = globalThis;
  globalThis.fetch = (input, init) => fetch(typeof input === 'string' ? new URL(input, base) : input, init);
  const store = servedStore({ kind: 'served', root, folder: '', token });
  const files: (HaulFile & Pick<Published, 'sha256'>)[] = [];
  for (const { href, size, pieces, sha256 } of published.toSorted((a, b) => b.size - a.size)) {
    const key = contentKey(size, pieces, PIECE_SIZE);
    const name = await contentName(key, platformSha256);
    files.push({ name, href, size, key, sha256, sources: [] });
  }
  const sum = { requests: 0, wireBytes: 0, failed: 0 };
  const { signal } = new AbortController();
  await inLanes(haulsOf(files), LANES, { gate: () => undefined }, async ({ files: haul }) => {
    const { requests, wireBytes, failed } = await store.fetch(
      { files: haul.map(({ sha256: _, ...file }) => file) },
      () => undefined,
      signal,
    );
    sum.requests += requests;
    sum.wireBytes += wireBytes;
    sum.failed += failed.length;
  });
  return sum;
}
