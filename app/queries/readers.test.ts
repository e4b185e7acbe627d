import { describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { HOSTILE } from '../../core/testing/hostile';
import { READERS } from './readers';

/** Signs of a text. That time grows by their number alone is no matter for a test by the clock: bench/readers.mjs holds it. */
const N = 200_000;

/** How a reading ends: `read`, or the code of its failure. */
async function reading(read: (text: string) => unknown, text: string): Promise<string> {
  try {
    await read(text);
    return 'read';
  } catch (error) {
    return isFailure(error) ? error.code : `${error}`;
  }
}

describe.each(Object.entries(READERS))('%s', (_, read) => {
  it.each(Object.entries(HOSTILE))('of %s ends by name', async (_shape, make) => {
    expect(await reading(read, make(N))).toMatch(/^(read|[a-z-]+\/[a-z-]+)$/);
  });
});
