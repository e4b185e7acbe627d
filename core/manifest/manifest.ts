import {
  type ContentKey,
  contentKeyOfDigits,
  isHexOf,
  keyPieces,
  keyPieceSize,
  keySize,
  PIECE_SIZE,
  putHex,
  toHex,
} from '#core/digest';
import type { BuildLabel, DepotId } from '#core/builds';
import { CHECKSUM_KINDS, type ChecksumKind } from '#core/lists';

/** One file of a depot at one build. Digests are SHA-256 as hexadecimal digits. */
export interface ManifestFile {
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  readonly sha256: string;
  /** Of a file of at most {@link PIECE_SIZE} bytes the one digest of the whole, however its publisher cuts files. */
  readonly pieces: readonly string[];
  /** Bytes of the pieces; {@link PIECE_SIZE} where it is left out. */
  readonly pieceSize?: number;
  /** Checksums of other kinds, which people's lists may have. */
  readonly others?: Partial<Record<OtherKind, string>>;
}

/** Kinds of checksums that a manifest may tell besides SHA-256. */
export const OTHER_KINDS = ['sha-1', 'md5', 'crc-32'] as const;
export type OtherKind = (typeof OTHER_KINDS)[number];

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
  /** `n` sizes of pieces in bytes; left out where all have {@link PIECE_SIZE}. */
  readonly pieceSizes?: Float64Array;
  /** `n` checksums of a kind after one another; a kind that some file does not have is left out. */
  readonly others?: Partial<Record<OtherKind, Uint8Array>>;
}

function othersOf(files: readonly ManifestFile[]): NonNullable<Manifest['others']> {
  const columns: Partial<Record<OtherKind, Uint8Array>> = {};
  for (const kind of OTHER_KINDS) {
    const length = CHECKSUM_KINDS[kind] / 2;
    const column = new Uint8Array(length * files.length);
    if (files.length === 0 || files.some(({ others }) => others?.[kind] === undefined)) continue;
    files.forEach(({ others }, i) => putHex(others![kind]!, column, length * i));
    columns[kind] = column;
  }
  return columns;
}

/** The checksums of a kind of all files in their order; undefined where the manifest does not tell them. */
export function manifestDigests(manifest: Manifest, kind: ChecksumKind): string[] | undefined {
  const column = kind === 'sha-256' ? manifest.sha256 : manifest.others?.[kind];
  const length = CHECKSUM_KINDS[kind] / 2;
  return column && manifest.paths.map((_, i) => toHex(column, length * i, length * (i + 1)));
}

export function manifestFromFiles(build: BuildLabel, depot: DepotId, files: readonly ManifestFile[]): Manifest {
  const pieceStart = new Uint32Array(files.length + 1);
  files.forEach((file, i) => (pieceStart[i + 1] = pieceStart[i]! + file.pieces.length));
  const sha256 = new Uint8Array(32 * files.length);
  const pieces = new Uint8Array(32 * pieceStart[files.length]!);
  files.forEach((file, i) => {
    putHex(file.sha256, sha256, 32 * i);
    file.pieces.forEach((piece, j) => putHex(piece, pieces, 32 * (pieceStart[i]! + j)));
  });
  return {
    build,
    depot,
    paths: files.map((file) => file.path),
    sizes: Float64Array.from(files, (file) => file.size),
    sha256,
    pieceStart,
    pieces,
    ...(files.some(({ pieceSize = PIECE_SIZE }) => pieceSize !== PIECE_SIZE) && {
      pieceSizes: Float64Array.from(files, ({ pieceSize = PIECE_SIZE }) => pieceSize),
    }),
    ...(files[0]?.others ? { others: othersOf(files) } : {}),
  };
}

/** File `i` of the columns, without checksums of other kinds. Inverse, file by file, of {@link manifestFromFiles}. */
export function fileAt(manifest: Manifest, i: number): ManifestFile & { readonly key: ContentKey } {
  const size = manifest.sizes[i]!;
  const sha256 = toHex(manifest.sha256, 32 * i, 32 * i + 32);
  const key = keyAt(manifest, i);
  const own = keyPieces(key);
  // Of a file of one piece the two are the same: one string serves for both.
  const pieces = own.length === 1 && own[0] === sha256 ? [sha256] : own;
  const pieceSize = manifest.pieceSizes?.[i] ?? PIECE_SIZE;
  return { path: manifest.paths[i]!, size, sha256, pieces, ...(pieceSize !== PIECE_SIZE && { pieceSize }), key };
}

/** What names the content of file `i` of the columns. */
export function keyAt({ sizes, pieceSizes, pieceStart, pieces }: Manifest, i: number): ContentKey {
  const digits = toHex(pieces, 32 * pieceStart[i]!, 32 * pieceStart[i + 1]!);
  return contentKeyOfDigits(sizes[i]!, digits, pieceSizes?.[i]);
}

/** Whether file `i` of the columns has this content, without making its strings. */
export function isFileAt(manifest: Manifest, i: number, file: ReturnType<typeof fileAt>): boolean {
  const { size, sha256, pieces, pieceSize = PIECE_SIZE } = file;
  if (pieceSize !== (manifest.pieceSizes?.[i] ?? PIECE_SIZE)) return false;
  if (manifest.sizes[i] !== size || !isHexOf(sha256, manifest.sha256, 32 * i, 32 * i + 32)) return false;
  const first = manifest.pieceStart[i]!;
  if (pieces.length !== manifest.pieceStart[i + 1]! - first) return false;
  // The digest of a file of one piece is that piece's.
  if (pieces.length === 1) return true;
  return pieces.every((piece, j) => isHexOf(piece, manifest.pieces, 32 * (first + j), 32 * (first + j) + 32));
}

/** Whether file `i` of the columns has the content of this key, without making its strings. */
export function hasKeyAt({ sizes, pieceSizes, pieceStart, pieces }: Manifest, i: number, key: ContentKey): boolean {
  const size = sizes[i]!;
  if (keySize(key) !== size) return false;
  const pieceSize = size <= PIECE_SIZE ? PIECE_SIZE : (pieceSizes?.[i] ?? PIECE_SIZE);
  if (keyPieceSize(key) !== pieceSize) return false;
  return isHexOf(key, pieces, 32 * pieceStart[i]!, 32 * pieceStart[i + 1]!, key.indexOf(':') + 1);
}

export function manifestFiles(manifest: Manifest): (ManifestFile & { readonly key: ContentKey })[] {
  return manifest.paths.map((_, i) => fileAt(manifest, i));
}

export function manifestBytes(manifest: Manifest): number {
  return manifest.sizes.reduce((sum, size) => sum + size, 0);
}
