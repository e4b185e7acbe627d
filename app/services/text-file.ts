import { Failure } from '#core/failure';

const BYTE_ORDER_MARKS: readonly [encoding: string, mark: readonly number[]][] = [
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

/**
 * The text of a file that a person hands over: UTF-8, or UTF-16 with a byte order mark, as some shells write it.
 * @throws Failure `list/encoding` with the line of the first byte that fits neither
 */
export function decodeText(bytes: Uint8Array, file: string): string {
  const [encoding] = BYTE_ORDER_MARKS.find(([, mark]) => mark.every((byte, i) => bytes[i] === byte)) ?? ['utf-8'];
  try {
    return new TextDecoder(encoding, { fatal: true }).decode(bytes);
  } catch (cause) {
    const readable = new TextDecoder(encoding).decode(bytes);
    const line = readable.slice(0, readable.indexOf('\ufffd') + 1).split('\n').length;
    throw new Failure('list/encoding', { file, line }, { cause });
  }
}
