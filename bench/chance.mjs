/** Chance by a seed (Mulberry32): the same for the same seed, everywhere. */
export function chance(seed) {
  let state = Number(seed) >>> 0;
  /** A number from 0 up to, and without, 1. */
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
  const upTo = (n) => Math.floor(next() * n);
  return { next, upTo, one: (some) => some[upTo(some.length)] };
}
