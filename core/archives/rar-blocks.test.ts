import { describe, expect, it } from 'vitest';
import { rarChain } from './rar-blocks';

const bytes = (...parts: (number | readonly number[])[]): number[] => parts.flat();
const little = (value: number, length: number): number[] =>
  Array.from({ length }, (_, i) => Math.floor(value / 2 ** (8 * i)) & 0xff);
const chain = (...parts: (readonly number[])[]) => rarChain(Uint8Array.from(parts.flat()));

describe('a chain of blocks of version 5', () => {
  const SIGNATURE = [0x52, 0x61, 0x72, 0x21, 0x1a, 7, 1, 0];
  const vint = (value: number): number[] => (value < 0x80 ? [value] : [0x80 | (value & 0x7f), ...vint(value >> 7)]);
  /** @param rest what follows the flags */
  const block = (type: number, flags: number, rest: readonly number[] = []): number[] => {
    const fields = [...vint(type), ...vint(flags), ...rest];
    return bytes(little(0, 4), vint(fields.length), fields);
  };
  const main = (archiveFlags = 0): number[] => block(1, 0, vint(archiveFlags));
  const end = block(5, 0, vint(0));
  /** A file of some bytes, whose header has an extra area. */
  const file = (size: number): number[] =>
    bytes(block(2, 3, bytes(vint(4), vint(size), vint(0), [9, 9, 9, 9])), Array<number>(size).fill(7));

  it('is whole up to its end, whatever follows', () => {
    expect(chain(SIGNATURE, main(), file(3), file(300), end)).toBe('whole');
    expect(chain(SIGNATURE, main(), end, [1, 2, 3])).toBe('whole');
    // Other flags than that of a volume: solid, with a record for recovery.
    expect(chain(SIGNATURE, main(4 | 8), end)).toBe('whole');
  });

  it('is cut off in data, in a header, and where its end is missing', () => {
    const all = bytes(SIGNATURE, main(), file(200), end);
    for (let length = SIGNATURE.length; length < all.length; length++)
      expect(rarChain(Uint8Array.from(all.slice(0, length))), String(length)).toBe('cut-off');
  });

  it('of several volumes, or encrypted, is told for that', () => {
    expect(chain(SIGNATURE, main(1), file(3), end)).toBe('in-parts');
    // A file's attributes are no flags of the archive.
    expect(chain(SIGNATURE, main(), block(2, 0, vint(1)), end)).toBe('whole');
    expect(chain(SIGNATURE, block(4, 0, vint(0)), main())).toBe('encrypted');
  });
});

describe('a chain of blocks of version 4', () => {
  const SIGNATURE = [0x52, 0x61, 0x72, 0x21, 0x1a, 7, 0];
  const block = (type: number, flags: number, rest: readonly number[] = []): number[] =>
    bytes(little(0, 2), type, little(flags, 2), little(7 + rest.length, 2), rest);
  const main = (flags = 0): number[] => block(0x73, flags, little(0, 6));
  const end = block(0x7b, 0x4000);
  /** @param high of a large file the upper half of its size */
  const file = (size: number, high?: number): number[] =>
    bytes(
      block(0x74, 0x8000 | (high === undefined ? 0 : 0x100), [
        ...bytes(little(size, 4), little(0, 21), little(high ?? 0, 4), little(0, 4), [0x61]),
      ]),
      Array<number>(size).fill(7),
    );

  it('is whole up to its end, or to that of its bytes, since it need not say where it ends', () => {
    expect(chain(SIGNATURE, main(), file(3), file(300), end)).toBe('whole');
    expect(chain(SIGNATURE, main(), file(300))).toBe('whole');
    expect(chain(SIGNATURE, main(), end, [1])).toBe('whole');
    // Any block says by a flag that data follow it, such as a comment.
    expect(chain(SIGNATURE, main(), block(0x75, 0x8000, little(2, 4)), [7, 7], end)).toBe('whole');
    expect(chain(SIGNATURE, main(), block(0x75, 0, little(2, 4)), end)).toBe('whole');
    expect(chain(SIGNATURE, main(), file(3, 0), end)).toBe('whole');
  });

  it('is cut off in data and in a header', () => {
    const head = bytes(SIGNATURE, main());
    const all = bytes(head, file(50));
    for (let length = head.length + 1; length < all.length; length++)
      expect(rarChain(Uint8Array.from(all.slice(0, length))), String(length)).toBe('cut-off');
    expect(chain(head, file(3, 1), end)).toBe('cut-off');
    // A header is never shorter than what every header has.
    expect(chain(head, bytes(little(0, 2), 0x75, little(0, 2), little(6, 2)), end)).toBe('cut-off');
  });

  it('of several volumes, or with encrypted headers, is told for that', () => {
    expect(chain(SIGNATURE, main(1), file(3), end)).toBe('in-parts');
    expect(chain(SIGNATURE, main(0x80), [1, 2, 3])).toBe('encrypted');
    // A file that goes on in another volume says so by a flag of its own, as does the archive.
    expect(chain(SIGNATURE, main(), block(0x74, 0x81, bytes(little(0, 4), little(0, 21))), end)).toBe('whole');
  });
});
