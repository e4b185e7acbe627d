import { type ContentKey, contentKey, fromHex, toHex } from '#core/digest';
import type { BuildLabel, DepotId } from '#core/builds';

/** One file of a depot at one build. Digests are SHA-256 as hexadecimal digits. */
export interface ManifestFile {
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  readonly sha256: string;
  readonly pieces: readonly string[];
}

/**
 * Every file of one depot at one build, as columns: `n` paths, `n` sizes in bytes, `n` digests of 32 bytes, and the
 * digests of all pieces after one another; those of file `i` are numbers `pieceStart[i]` to `pieceStart[i + 1]`.
 * Columns cross threads and enter the store as a handful of values, however many files there are.
 */
export interface Manifest {
  readonly build: BuildLabel;
  readonly depot: DepotId;
  readonly paths: readonly string[];
  readonly sizes: Float64Array;
  readonly sha256: Uint8Array;
  readonly pieceStart: Uint32Array;
  readonly pieces: Uint8Array;
}

export function manifestFromFiles(build: BuildLabel, depot: DepotId, files: readonly ManifestFile[]): Manifest {
  const pieceStart = new Uint32Array(files.length + 1);
  files.forEach((file, i) => (pieceStart[i + 1] = pieceStart[i]! + file.pieces.length));
  const sha256 = new Uint8Array(32 * files.length);
  const pieces = new Uint8Array(32 * pieceStart[files.length]!);
  files.forEach((file, i) => {
    sha256.set(fromHex(file.sha256), 32 * i);
    file.pieces.forEach((piece, j) => pieces.set(fromHex(piece), 32 * (pieceStart[i]! + j)));
  });
  return {
    build,
    depot,
    paths: files.map((file) => file.path),
    sizes: Float64Array.from(files, (file) => file.size),
    sha256,
    pieceStart,
    pieces,
  };
}

/** File `i` of the columns. Inverse, file by file, of {@link manifestFromFiles}. */
export function fileAt(manifest: Manifest, i: number): ManifestFile & { readonly key: ContentKey } {
  const size = manifest.sizes[i]!;
  const pieces: string[] = [];
  for (let j = manifest.pieceStart[i]!; j < manifest.pieceStart[i + 1]!; j++) {
    pieces.push(toHex(manifest.pieces, 32 * j, 32 * j + 32));
  }
  return {
    path: manifest.paths[i]!,
    size,
    sha256: toHex(manifest.sha256, 32 * i, 32 * i + 32),
    pieces,
    key: contentKey(size, pieces),
  };
}

export function manifestFiles(manifest: Manifest): (ManifestFile & { readonly key: ContentKey })[] {
  return manifest.paths.map((_, i) => fileAt(manifest, i));
}

export function manifestBytes(manifest: Manifest): number {
  return manifest.sizes.reduce((sum, size) => sum + size, 0);
}
