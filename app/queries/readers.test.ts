import { describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { HOSTILE } from '../../core/testing/hostile';
import { READERS } from './readers';

const N = 100_000;
/** Twice as long an input may take two and a half times as long; this is of one four times as long. */
const MOST_GROWTH = 2.5 ** 2;
/** Below it a time says more of the machine than of the reader: what grows by the square of 400,000 signs takes many times as long. */
const LEAST_MS = 150;
const ROUNDS = 3;

/** How a reading ends, and in how many milliseconds at the least. */
async function reading(read: (text: string) => unknown, text: string): Promise<{ ms: number; outcome: string }> {
  let [ms, outcome] = [Infinity, ''];
  for (let i = 0; i < ROUNDS; i++) {
    const start = performance.now();
    outcome = await Promise.resolve()
      .then(() => read(text))
      .then(
        () => 'read',
        (error: unknown) => (isFailure(error) ? error.code : `${error}`),
      );
    ms = Math.min(ms, performance.now() - start);
    if (ms < LEAST_MS) break;
  }
  return { ms, outcome };
}

describe.each(Object.entries(READERS))('%s', (_, read) => {
  it.each(Object.entries(HOSTILE))('of %s ends by name, in time by its length', async (_shape, make) => {
    const [short, long] = [make(N), make(4 * N)];
    const { outcome } = await reading(read, short);
    expect(outcome).toMatch(/^(read|[a-z-]+\/[a-z-]+)$/);
    // A machine that is busy meanwhile is asked again; what grows by its square does so every time.
    let growth = Infinity;
    for (let tries = 0; tries < 3 && growth > MOST_GROWTH; tries++) {
      const { ms } = await reading(read, long);
      growth = ms < LEAST_MS ? 0 : ms / (await reading(read, short)).ms;
    }
    expect(growth).toBeLessThanOrEqual(MOST_GROWTH);
  });
});
