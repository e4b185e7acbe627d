import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { digest, failureCode, keyOf, sha256 } from '../testing/digest';
import { contentKey, fromHex, keyPieces, PIECE_SIZE, pieceCount, pieceRange, toHex, treeDigest } from './index';

it('a content key gives its pieces back', () => {
  const pieces = [digest('a'), digest('b')];
  expect(keyPieces(contentKey(PIECE_SIZE + 1, pieces))).toEqual(pieces);
});

it('pieces cover a file once, without gap or overlap', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 5 * PIECE_SIZE }), (size) => {
      const ranges = Array.from({ length: pieceCount(size) }, (_, i) => pieceRange(size, i));
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
