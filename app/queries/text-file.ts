import { Failure } from '#core/failure';

const MARKS: readonly [encoding: 'utf-16le' | 'utf-16be' | 'utf-32le' | 'utf-32be', mark: readonly number[]][] = [
  // Before UTF-16, whose little-endian mark begins this one.
  ['utf-32le', [0xff, 0xfe, 0, 0]],
  ['utf-32be', [0, 0, 0xfe, 0xff]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

const UNITS_AT_ONCE = 4096;

/** UTF-32, which the platform does not read; what is no character is replaced as it would do. */
function decodeUtf32(bytes: Uint8Array, littleEndian: boolean): string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: string[] = [];
  let points: number[] = [];
  for (let at = 4; at < bytes.length; at += 4) {
    const point = at + 4 <= bytes.length ? view.getUint32(at, littleEndian) : NaN;
    const is = point <= 0x10ffff && (point < 0xd800 || point > 0xdfff);
    points.push(is ? point : 0xfffd);
    if (points.length === UNITS_AT_ONCE || at + 4 >= bytes.length) {
      parts.push(String.fromCodePoint(...points));
      points = [];
    }
  }
  return parts.join('');
}

function decode(bytes: Uint8Array, encoding: string, fatal: boolean): string {
  if (!encoding.startsWith('utf-32')) return new TextDecoder(encoding, { fatal }).decode(bytes);
  const text = decodeUtf32(bytes, encoding.endsWith('le'));
  if (fatal && text.includes('\ufffd')) throw new TypeError('not UTF-32');
  return text;
}

/**
 * The text of a file that a person hands over: UTF-8, or UTF-16 or UTF-32 with a byte order mark, as some shells write it.
 * @throws Failure `list/encoding` with the line of the first byte that fits none of them
 */
export function decodeText(bytes: Uint8Array, file: string): string {
  const [encoding] = MARKS.find(([, mark]) => mark.every((byte, i) => bytes[i] === byte)) ?? ['utf-8'];
  try {
    return decode(bytes, encoding, true);
  } catch (cause) {
    const readable = decode(bytes, encoding, false);
    const line = readable.slice(0, readable.indexOf('\ufffd') + 1).split('\n').length;
    throw new Failure('list/encoding', { file, line }, { cause });
  }
}
