/** Files are checked, fetched and reused in pieces of this many bytes, where their publisher does not cut them otherwise. */
export const PIECE_SIZE = 1 << 20;

/** The smallest piece that a publisher may cut files into; larger ones are this times a power of two. */
export const MIN_PIECE_SIZE = 1 << 14;

/** Whether files may be cut into pieces of so many bytes: a power of two from 16 KiB up. */
export function isPieceSize(bytes: number): boolean {
  return Number.isSafeInteger(bytes) && bytes >= MIN_PIECE_SIZE && Number.isInteger(Math.log2(bytes));
}

/**
 * The platform's SHA-256, answered as 64 lower-case hexadecimal digits. A string is hashed as UTF-8. Bytes are taken over
 * before the call returns, as Web Cryptography has it: their memory may be used for something else at once.
 */
export type Sha256 = (data: Uint8Array<ArrayBuffer> | string) => Promise<string>;

/**
 * Names a content: its size and the SHA-256 of each of its pieces (`size:digits`), with the size of the pieces where it is
 * not the usual one (`size/pieceSize:digits`). Of contents that are cut alike, two have equal bytes if, and (short of a
 * collision) only if, their keys are equal. Unlike a whole-file digest it can be computed piece by piece, in any order.
 */
export type ContentKey = string & { readonly __brand: 'ContentKey' };

/**
 * A content that fits into one usual piece has one key, however its publisher cuts files.
 * @param pieces SHA-256 of each piece in order, as hexadecimal digits; of a content of at most {@link PIECE_SIZE} bytes the
 *   one digest of the whole
 * @param pieceSize bytes
 */
export function contentKey(size: number, pieces: readonly string[], pieceSize = PIECE_SIZE): ContentKey {
  return contentKeyOfDigits(size, pieces.join(''), pieceSize);
}

/** The same, of the digests of its pieces after one another. */
export function contentKeyOfDigits(size: number, digits: string, pieceSize = PIECE_SIZE): ContentKey {
  const cut = size <= PIECE_SIZE || pieceSize === PIECE_SIZE ? '' : `/${pieceSize}`;
  return `${size}${cut}:${digits}` as ContentKey;
}

/** The piece digests inside a key, in order. Inverse of {@link contentKey}. */
export function keyPieces(key: ContentKey): string[] {
  const hex = key.slice(key.indexOf(':') + 1);
  return Array.from({ length: hex.length / 64 }, (_, i) => hex.slice(64 * i, 64 * i + 64));
}

/** The size inside a key, in bytes. */
export function keySize(key: ContentKey): number {
  // Asked for of hundreds of thousands at once, and of keys as long as their files have pieces.
  let size = 0;
  for (let i = 0; ; i++) {
    const digit = key.charCodeAt(i) - 48;
    if (!(digit >= 0 && digit <= 9)) return size;
    size = size * 10 + digit;
  }
}

/** Bytes of the pieces that a key speaks of. */
export function keyPieceSize(key: ContentKey): number {
  // Nothing is looked for among the digests, of which there may be very many.
  const head = key.slice(0, key.indexOf(':'));
  const cut = head.indexOf('/');
  return cut === -1 ? PIECE_SIZE : Number(head.slice(cut + 1));
}

/** An empty file has one empty piece, so that it too has a digest. */
export function pieceCount(size: number, pieceSize = PIECE_SIZE): number {
  return Math.max(1, Math.ceil(size / pieceSize));
}

/** The bytes `[start, end)` of piece `index` of a file of `size` bytes. */
export function pieceRange(size: number, index: number, pieceSize = PIECE_SIZE): { start: number; end: number } {
  return { start: index * pieceSize, end: Math.min(size, (index + 1) * pieceSize) };
}

/** Bytes of piece `index` of a file of `size` bytes. */
export function pieceBytes(size: number, index: number, pieceSize = PIECE_SIZE): number {
  return Math.min(pieceSize, size - index * pieceSize);
}

/**
 * One digest for a whole tree: SHA-256 over the lines `key, two spaces, path`, sorted by path in code-unit order.
 * It depends on paths and contents alone, not on the order of `files` nor on any time.
 */
export async function treeDigest(
  files: readonly { readonly path: string; readonly key: ContentKey }[],
  sha256: Sha256,
): Promise<string> {
  const sorted = files.toSorted((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0));
  return sha256(sorted.map(({ path, key }) => `${key}  ${path}\n`).join(''));
}
