import { Failure } from '#core/failure';

/** A well-mixing permutation of 32 bits ("lowbias32", found by Chris Wellons' search for low-bias integer hashes). */
export function mix(value: number): number {
  let x = value | 0;
  x = Math.imul(x ^ (x >>> 16), 0x21f0aaad);
  x = Math.imul(x ^ (x >>> 15), 0x735a2d97);
  return (x ^ (x >>> 15)) >>> 0;
}

/** A number from 0 to 2³² - 1 for a seed and a text; FNV-1a over UTF-16 code units, then mixed. */
export function seedFor(seed: number, text: string): number {
  let x = 0x811c9dc5 ^ seed;
  for (let i = 0; i < text.length; i++) x = Math.imul(x ^ text.charCodeAt(i), 0x01000193);
  return mix(x);
}

/** From 0 up to, not including, 1. */
export function fraction(seed: number, text: string): number {
  return seedFor(seed, text) / 2 ** 32;
}

/** A whole number from `low` to `high`, both included. */
export function between(seed: number, text: string, low: number, high: number): number {
  return low + Math.floor(fraction(seed, text) * (high - low + 1));
}

export function pick<T>(seed: number, text: string, list: readonly T[]): T {
  return list[seedFor(seed, text) % list.length]!;
}

/** @throws Failure `demo/bad-seed` unless `seed` is a whole number from 0 to 2³² - 1 */
export function assertSeed(seed: number): void {
  if (!Number.isInteger(seed) || seed < 0 || seed >= 2 ** 32) {
    throw new Failure('demo/bad-seed', { found: String(seed), expected: 'a whole number from 0 to 4294967295' });
  }
}

/**
 * Writes bytes `[start, start + out.length)` of the endless stream that belongs to `seed`. The stream is counter based,
 * so that any range costs only its own length, and little-endian by definition, so that it is the same everywhere.
 */
export function streamBytes(seed: number, start: number, out: Uint8Array): void {
  const view = new DataView(out.buffer, out.byteOffset, out.byteLength);
  const word = (i: number): number => mix(seed + Math.imul(i + 1, 0x9e3779b9));
  let at = 0;
  for (; at < out.length && (start + at) % 4 !== 0; at++) {
    out[at] = word((start + at) >>> 2) >>> (8 * ((start + at) % 4));
  }
  for (let i = (start + at) / 4; at + 4 <= out.length; at += 4, i++) view.setUint32(at, word(i), true);
  for (; at < out.length; at++) out[at] = word((start + at) >>> 2) >>> (8 * ((start + at) % 4));
}
