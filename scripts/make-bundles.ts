import { createHash } from 'node:crypto';
import { closeSync, fsyncSync, mkdirSync, openSync, readSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { type Compressor, type Effort, packBundle, type ReadableDepot } from '#core/bundles';
import { Failure } from '#core/failure';
import type { Manifest } from '#core/manifest';
import { bundleIndexPath, bundlePath, type MadeBundle } from '#core/sources';

/** A depot of a build as it lies in a source: its manifest, the SHA-256 of that, and the folder with its files. */
export interface LyingDepot {
  readonly manifest: Manifest;
  readonly sha256: string;
  readonly folder: string;
}

const readable = ({ manifest, sha256, folder }: LyingDepot): ReadableDepot => ({
  manifest,
  sha256,
  read(path, start, end) {
    const bytes = new Uint8Array(end - start);
    const fd = openSync(join(folder, path), 'r');
    try {
      if (readSync(fd, bytes, 0, bytes.length, start) < bytes.length)
        throw new Failure('folder/changed-meanwhile', { path });
      return bytes;
    } finally {
      closeSync(fd);
    }
  },
});

/**
 * Writes a bundle of a depot and its index into a source.
 * @param to the folder of the source
 * @param base the depot at the build that has to be had; all of its files are bundled where it is left out
 * @returns undefined where there is nothing to bundle
 * @throws Failure `folder/changed-meanwhile` where a file is shorter by now
 */
export async function makeBundle(
  to: string,
  depot: LyingDepot,
  base: LyingDepot | undefined,
  compressor: Compressor,
  effort: Effort,
): Promise<MadeBundle | undefined> {
  const { build, depot: id } = depot.manifest;
  const href = bundlePath(build, id, base?.manifest.build);
  mkdirSync(dirname(join(to, href)), { recursive: true });
  const fd = openSync(join(to, href), 'w');
  let made: Awaited<ReturnType<typeof packBundle>>;
  try {
    const write = (frame: Uint8Array): void => void writeSync(fd, frame);
    made = await packBundle(readable(depot), base && readable(base), compressor, effort, write);
    fsyncSync(fd);
  } finally {
    closeSync(fd);
  }
  if (!made) {
    rmSync(join(to, href));
    return undefined;
  }
  const text = JSON.stringify(made.index);
  const index = bundleIndexPath(href);
  writeFileSync(join(to, index), gzipSync(text, { level: 9 }));
  return {
    ...{ build, depot: id, href, index, bytes: made.bytes, sha256: createHash('sha256').update(text).digest('hex') },
    ...(base && { from: base.manifest.build }),
  };
}
