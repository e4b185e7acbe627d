import { PIECE_SIZE } from '#core/digest';

/** A file that its publisher cuts into pieces of another size than the usual one. */
export interface PublishedCut {
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  /** Bytes. */
  readonly pieceSize: number;
}

/**
 * Answers the size of the pieces, in bytes, that a file on disk is to be hashed by, so that its key can be compared with what
 * was published: as the file of this path and size is cut, or one of this size elsewhere, since it may have been moved.
 */
export function asPublished(cuts: readonly PublishedCut[]): (path: string, size: number) => number {
  const atPath = new Map(cuts.map(({ path, size, pieceSize }) => [`${size} ${path}`, pieceSize]));
  const ofSize = new Map(cuts.map(({ size, pieceSize }) => [size, pieceSize]));
  return (path, size) => atPath.get(`${size} ${path}`) ?? ofSize.get(size) ?? PIECE_SIZE;
}
