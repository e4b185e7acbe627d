import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { digest, failureCode, keyOf, sha256 } from '../testing/digest';
import {
  contentKey,
  fromHex,
  isPieceSize,
  keyPieces,
  keyPieceSize,
  keySize,
  PIECE_SIZE,
  pieceCount,
  pieceRange,
  toHex,
  treeDigest,
} from './index';

it('a content key gives its size, its pieces and their size back', () => {
  const pieces = [digest('a'), digest('b')];
  for (const pieceSize of [PIECE_SIZE, 2 * PIECE_SIZE]) {
    const key = contentKey(pieceSize + 1, pieces, pieceSize);
    expect([keySize(key), keyPieces(key), keyPieceSize(key)]).toEqual([pieceSize + 1, pieces, pieceSize]);
  }
});

it('a content of one usual piece has one key, however it is cut', () => {
  expect(contentKey(PIECE_SIZE, [digest('a')], 1 << 14)).toBe(contentKey(PIECE_SIZE, [digest('a')]));
});

it.each([
  [1 << 14, true],
  [1 << 20, true],
  [2 ** 40, true],
  [1 << 13, false],
  [3 << 14, false],
  [2 ** 14.5, false],
  [NaN, false],
  [Infinity, false],
])('pieces of %d bytes: %s', (bytes, is) => {
  expect(isPieceSize(bytes)).toBe(is);
});

it('pieces cover a file once, without gap or overlap', () => {
  const pieceSizes = fc.constantFrom(1 << 14, PIECE_SIZE, 1 << 22);
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 5 * PIECE_SIZE }), pieceSizes, (size, pieceSize) => {
      const ranges = Array.from({ length: pieceCount(size, pieceSize) }, (_, i) => pieceRange(size, i, pieceSize));
      expect(ranges[0]!.start).toBe(0);
      expect(ranges.at(-1)!.end).toBe(size);
      ranges.slice(1).forEach(({ start }, i) => expect(start).toBe(ranges[i]!.end));
    }),
  );
});

describe('hexadecimal digits', () => {
  it('give their bytes back', () => {
    fc.assert(fc.property(fc.uint8Array(), (bytes) => void expect(fromHex(toHex(bytes))).toEqual(bytes)));
  });

  it.each(['abc', 'zz', '0x'])('%s are none', (hex) => {
    expect(failureCode(() => fromHex(hex))).toBe('digest/malformed');
  });
});

describe('the digest of a tree', () => {
  const files = ['a', 'b', 'c/d'].map((path) => ({ path, key: keyOf(path) }));

  it('does not depend on order', async () => {
    expect(await treeDigest(files.toReversed(), sha256)).toBe(await treeDigest(files, sha256));
  });

  it('depends on every path and every content', async () => {
    const whole = await treeDigest(files, sha256);
    const moved = files.map((file, i) => (i === 1 ? { ...file, path: 'b2' } : file));
    const altered = files.map((file, i) => (i === 1 ? { ...file, key: keyOf('other') } : file));
    for (const other of [moved, altered, files.slice(1)]) expect(await treeDigest(other, sha256)).not.toBe(whole);
  });
});
