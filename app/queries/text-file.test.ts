import { describe, expect, it } from 'vitest';
import { decodeText } from './text-file';

const bytes = (...parts: (string | number[])[]): Uint8Array =>
  new Uint8Array(
    Buffer.concat(parts.map((part) => (typeof part === 'string' ? Buffer.from(part) : Buffer.from(part)))),
  );

describe('a text that is handed over', () => {
  it('is read in UTF-8 and, by its mark, in UTF-16', () => {
    expect(decodeText(bytes('schön\n'), 'x')).toBe('schön\n');
    expect(decodeText(bytes([0xff, 0xfe], [...Buffer.from('schön', 'utf16le')]), 'x')).toBe('schön');
    expect(decodeText(bytes([0xfe, 0xff, 0, 0x61]), 'x')).toBe('a');
  });

  it('is refused in another encoding, with the line', () => {
    expect(() => decodeText(bytes('one\ntwo\nsch', [0xf6], 'n\n'), 'old.list')).toThrow(
      expect.objectContaining({ code: 'list/encoding', facts: { file: 'old.list', line: 3 } }),
    );
  });
});
