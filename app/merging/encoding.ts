/* Texts as bytes: what is read in an encoding is written in it again, byte for byte. */

export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

export interface Decoded {
  readonly text: string;
  readonly encoding: Encoding;
  /** It begins with a mark that tells its encoding. */
  readonly hasMark: boolean;
}

const MARKS: readonly (readonly [Encoding, readonly number[]])[] = [
  ['utf-8', [0xef, 0xbb, 0xbf]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

/** Signs of windows-1252 by their bytes (Encoding Standard, index windows-1252): each byte is one. */
const SIGNS = new TextDecoder('windows-1252').decode(Uint8Array.from({ length: 256 }, (_, i) => i));
const BYTES: ReadonlyMap<string, number> = new Map(Array.from(SIGNS, (sign, byte) => [sign, byte]));

/**
 * A text by its bytes: by its mark, else UTF-8 where it is that, else windows-1252.
 * @returns undefined where it is no text in its encoding, or has bytes that no text has
 */
export function decode(bytes: Uint8Array<ArrayBuffer>): Decoded | undefined {
  const mark = MARKS.find(([, own]) => own.every((byte, i) => bytes[i] === byte));
  const body = mark ? bytes.subarray(mark[1].length) : bytes;
  for (const encoding of mark ? [mark[0]] : (['utf-8', 'windows-1252'] as const)) {
    try {
      const text = new TextDecoder(encoding, { fatal: true, ignoreBOM: true }).decode(body);
      return text.includes('\0') ? undefined : { text, encoding, hasMark: mark !== undefined };
    } catch {
      // Not in this encoding.
    }
  }
  return undefined;
}

/** @returns undefined where the text has signs that the encoding does not */
export function encode(
  text: string,
  { encoding, hasMark }: Omit<Decoded, 'text'>,
): Uint8Array<ArrayBuffer> | undefined {
  const mark = hasMark ? MARKS.find(([own]) => own === encoding)![1] : [];
  const bytes = bodyOf(text, encoding);
  if (!bytes || mark.length === 0) return bytes;
  const all = new Uint8Array(mark.length + bytes.length);
  all.set(mark);
  all.set(bytes, mark.length);
  return all;
}

function bodyOf(text: string, encoding: Encoding): Uint8Array<ArrayBuffer> | undefined {
  if (encoding === 'utf-8') return new TextEncoder().encode(text);
  if (encoding === 'windows-1252') {
    const bytes = new Uint8Array(text.length);
    for (let i = 0; i < text.length; i++) {
      const byte = BYTES.get(text[i]!);
      if (byte === undefined) return undefined;
      bytes[i] = byte;
    }
    return bytes;
  }
  const view = new DataView(new ArrayBuffer(text.length * 2));
  for (let i = 0; i < text.length; i++) view.setUint16(i * 2, text.charCodeAt(i), encoding === 'utf-16le');
  return new Uint8Array(view.buffer);
}
