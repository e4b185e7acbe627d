import { Failure } from '#core/failure';

const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'));

export function toHex(bytes: Uint8Array, start = 0, end = bytes.length): string {
  let text = '';
  for (let i = start; i < end; i++) text += HEX[bytes[i]!];
  return text;
}

export function isSha256Hex(text: string): boolean {
  return /^[0-9a-f]{64}$/.test(text);
}

/** @throws Failure `digest/malformed` when `hex` is not an even number of hexadecimal digits */
export function fromHex(hex: string): Uint8Array {
  if (hex.length % 2 !== 0 || /[^0-9a-fA-F]/.test(hex)) throw new Failure('digest/malformed', { found: hex });
  return Uint8Array.from({ length: hex.length / 2 }, (_, i) => parseInt(hex.slice(2 * i, 2 * i + 2), 16));
}
