import { manifestFiles, type Manifest } from '#core/manifest';
import { layoutFrames } from './layout';
import { BEFORE_PREFIX, type BundleIndex, BundleIndexSchema, type IndexPart } from './schema';

/** A depot at a build, whose files can be read. */
export interface ReadableDepot {
  readonly manifest: Manifest;
  /** SHA-256 of the manifest's text. */
  readonly sha256: string;
  /** Bytes `[start, end)` of a file. @throws Failure where they are not there any more */
  readonly read: (path: string, start: number, end: number) => Uint8Array;
}

/** Compresses bytes that begin with a prefix, several at a time. */
export interface Compressor {
  /** Frames to hand over at a time. */
  readonly lanes: number;
  readonly compress: (
    bytes: Uint8Array<ArrayBuffer>,
    prefix: Uint8Array<ArrayBuffer>,
    level: number,
  ) => Promise<Uint8Array>;
}

/** How hard bundles are compressed, by levels of Zstandard. */
export interface Effort {
  /** Of what builds on another build. */
  readonly level: number;
  /** Of all files of a depot: by far the most bytes. */
  readonly wholeLevel: number;
  /** Bytes that this level finds again what it has seen in. */
  readonly lookBack: number;
}

type Files = ReturnType<typeof manifestFiles>;

/** Reads parts of files after one another, behind `behind` bytes of nothing. */
function readParts(
  { read }: ReadableDepot,
  files: Files,
  parts: readonly IndexPart[],
  behind = 0,
): Uint8Array<ArrayBuffer> {
  const ranges = parts.map((part) => {
    const [file, start, end] = typeof part === 'number' ? [part, 0, files[part]!.size] : part;
    return { path: files[file]!.path, start, end };
  });
  const bytes = new Uint8Array(ranges.reduce((sum, { start, end }) => sum + end - start, behind));
  let at = behind;
  for (const { path, start, end } of ranges) {
    bytes.set(read(path, start, end), at);
    at += end - start;
  }
  return bytes;
}

/**
 * Makes a bundle of a depot.
 * @param base the depot at the build that has to be had; all of its files are bundled where it is left out
 * @param write takes the bundle, frame after frame
 * @returns its index, and its bytes; undefined where there is nothing to bundle
 */
export async function packBundle(
  depot: ReadableDepot,
  base: ReadableDepot | undefined,
  { compress, lanes }: Compressor,
  { level, wholeLevel, lookBack }: Effort,
  write: (frame: Uint8Array) => void,
): Promise<{ index: BundleIndex; bytes: number } | undefined> {
  const [files, had] = [manifestFiles(depot.manifest), base ? manifestFiles(base.manifest) : undefined];
  const laid = layoutFrames(files, had, lookBack);
  if (laid.length === 0) return undefined;
  const frames: BundleIndex['frames'][number][] = [];
  let bytes = 0;
  // A few frames are under way at a time, and are written in their order.
  const coming: Promise<Uint8Array>[] = [];
  const begin = (i: number): void => {
    const frame = laid[i];
    if (!frame) return;
    const prefix = frame.prefix.length > 0 ? readParts(base!, had!, frame.prefix, BEFORE_PREFIX) : new Uint8Array(0);
    coming[i] = compress(readParts(depot, files, frame.parts), prefix, base ? level : wholeLevel);
    // One that fails before it is waited for is told when it is.
    coming[i].catch(() => undefined);
  };
  for (let i = 0; i < lanes; i++) begin(i);
  for (const [i, { parts, prefix }] of laid.entries()) {
    const packed = await coming[i]!;
    delete coming[i];
    begin(i + lanes);
    write(packed);
    frames.push({ length: packed.length, parts, ...(prefix.length > 0 && { prefix }) });
    bytes += packed.length;
  }
  const { build, depot: id } = depot.manifest;
  const index = BundleIndexSchema.parse({
    ...{ format: 'regressum-bundle', version: 1, build, depot: id, manifest: depot.sha256, frames },
    ...(base && { from: { build: base.manifest.build, manifest: base.sha256 } }),
  });
  return { index, bytes };
}
