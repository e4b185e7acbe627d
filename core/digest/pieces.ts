/** Files are checked, fetched and reused in pieces of this many bytes; the last piece of a file may be shorter. */
export const PIECE_SIZE = 1 << 20;

/**
 * The platform's SHA-256, answered as 64 lower-case hexadecimal digits. A string is hashed as UTF-8. Bytes are taken over
 * before the call returns, as Web Cryptography has it: their memory may be used for something else at once.
 */
export type Sha256 = (data: Uint8Array<ArrayBuffer> | string) => Promise<string>;

/**
 * Names a content: its size and the SHA-256 of each of its pieces. Two files have equal bytes if, and (short of a
 * collision) only if, their keys are equal. Unlike a whole-file digest it can be computed piece by piece, in any order.
 */
export type ContentKey = string & { readonly __brand: 'ContentKey' };

/** @param pieces SHA-256 of each piece in order, as hexadecimal digits */
export function contentKey(size: number, pieces: readonly string[]): ContentKey {
  return `${size}:${pieces.join('')}` as ContentKey;
}

/** The piece digests inside a key, in order. Inverse of {@link contentKey}. */
export function keyPieces(key: ContentKey): string[] {
  const hex = key.slice(key.indexOf(':') + 1);
  return Array.from({ length: hex.length / 64 }, (_, i) => hex.slice(64 * i, 64 * i + 64));
}

/** The size inside a key, in bytes. */
export function keySize(key: ContentKey): number {
  return Number(key.slice(0, key.indexOf(':')));
}

/** An empty file has one empty piece, so that it too has a digest. */
export function pieceCount(size: number): number {
  return Math.max(1, Math.ceil(size / PIECE_SIZE));
}

/** The bytes `[start, end)` of piece `index` of a file of `size` bytes. */
export function pieceRange(size: number, index: number): { start: number; end: number } {
  return { start: index * PIECE_SIZE, end: Math.min(size, (index + 1) * PIECE_SIZE) };
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
