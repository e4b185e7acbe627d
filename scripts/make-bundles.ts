import { createHash } from 'node:crypto';
import { closeSync, fsyncSync, mkdirSync, openSync, readSync, writeFileSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { BEFORE_PREFIX, type BundleIndex, BundleIndexSchema, type IndexPart, layoutFrames } from '#core/bundles';
import { type BuildLabel, type DepotId } from '#core/builds';
import { Failure } from '#core/failure';
import { type Manifest, manifestFiles } from '#core/manifest';
import { bundleIndexPath, bundlePath, type MadeBundle } from '#core/sources';

/** A depot of a build as it lies in a source: its manifest, the SHA-256 of that, and the folder with its files. */
export interface LyingDepot {
  readonly manifest: Manifest;
  readonly sha256: string;
  readonly folder: string;
}

/** Compresses bytes that begin with a prefix, several at a time. */
export interface Compressor {
  readonly lanes: number;
  readonly compress: (
    bytes: Uint8Array<ArrayBuffer>,
    prefix: Uint8Array<ArrayBuffer>,
    level: number,
  ) => Promise<Uint8Array>;
}

/** How hard a bundle is compressed. */
export interface Effort {
  /** Of Zstandard. */
  readonly level: number;
  /** Bytes that this level finds again what it has seen in. */
  readonly lookBack: number;
}

type Files = ReturnType<typeof manifestFiles>;

/** Reads parts of files after one another, behind `behind` bytes of nothing. @throws Failure `folder/changed-meanwhile` where a file is shorter by now */
function readParts(folder: string, files: Files, parts: readonly IndexPart[], behind = 0): Uint8Array<ArrayBuffer> {
  const ranges = parts.map((part) => {
    const [file, start, end] = typeof part === 'number' ? [part, 0, files[part]!.size] : part;
    return { path: files[file]!.path, start, end };
  });
  const bytes = new Uint8Array(ranges.reduce((sum, { start, end }) => sum + end - start, behind));
  let at = behind;
  for (const { path, start, end } of ranges) {
    const fd = openSync(join(folder, path), 'r');
    try {
      const read = readSync(fd, bytes, at, end - start, start);
      if (read < end - start) throw new Failure('folder/changed-meanwhile', { path });
      at += read;
    } finally {
      closeSync(fd);
    }
  }
  return bytes;
}

/**
 * Writes a bundle of a depot and its index into a source.
 * @param to the folder of the source
 * @param base the depot at the build that has to be had; all of its files are bundled where it is left out
 * @returns undefined where there is nothing to bundle
 */
export async function makeBundle(
  to: string,
  depot: LyingDepot,
  base: LyingDepot | undefined,
  { compress, lanes }: Compressor,
  { level, lookBack }: Effort,
): Promise<MadeBundle | undefined> {
  const [files, had] = [manifestFiles(depot.manifest), base ? manifestFiles(base.manifest) : undefined];
  const laid = layoutFrames(files, had, lookBack);
  if (laid.length === 0) return undefined;
  const { build, depot: id }: { build: BuildLabel; depot: DepotId } = depot.manifest;
  const href = bundlePath(build, id, base?.manifest.build);
  mkdirSync(dirname(join(to, href)), { recursive: true });
  const fd = openSync(join(to, href), 'w');
  const frames: BundleIndex['frames'][number][] = [];
  let bytes = 0;
  try {
    // A few frames are under way at a time, and are written in their order.
    const coming: Promise<Uint8Array>[] = [];
    const begin = (i: number): void => {
      const frame = laid[i];
      if (!frame) return;
      const prefix =
        frame.prefix.length > 0 ? readParts(base!.folder, had!, frame.prefix, BEFORE_PREFIX) : new Uint8Array(0);
      coming[i] = compress(readParts(depot.folder, files, frame.parts), prefix, level);
    };
    for (let i = 0; i < lanes; i++) begin(i);
    for (const [i, { parts, prefix }] of laid.entries()) {
      const packed = await coming[i]!;
      begin(i + lanes);
      writeSync(fd, packed);
      frames.push({ length: packed.length, parts, ...(prefix.length > 0 && { prefix }) });
      bytes += packed.length;
    }
    fsyncSync(fd);
  } finally {
    closeSync(fd);
  }
  const index = BundleIndexSchema.parse({
    ...{ format: 'regressum-bundle', version: 1, build, depot: id, manifest: depot.sha256, frames },
    ...(base && { from: { build: base.manifest.build, manifest: base.sha256 } }),
  });
  const text = JSON.stringify(index);
  const indexPath = bundleIndexPath(href);
  writeFileSync(join(to, indexPath), gzipSync(text, { level: 9 }));
  return {
    ...{ build, depot: id, href, index: indexPath, bytes, sha256: createHash('sha256').update(text).digest('hex') },
    ...(base && { from: base.manifest.build }),
  };
}
