import { expect as base, type Locator } from '@playwright/test';

/** As long as anything may take: only what hangs ends by the clock. */
export const HANGS_MS = 240_000;

/**
 * Waits for an element before it is expected. What is expected and not there yet has the whole page described at each look,
 * for a message that only the last one needs, and that takes a tenth of all the processor time of these tests.
 */
const afterWaiting = (state: 'visible' | 'hidden') =>
  async function (this: { isNot: boolean }, locator: Locator, { timeout = HANGS_MS }: { timeout?: number } = {}) {
    const isVisible = this.isNot !== (state === 'visible');
    try {
      await locator.waitFor({ state: isVisible ? 'visible' : 'hidden', timeout });
      return { pass: !this.isNot, message: () => '' };
    } catch (cause) {
      const again = isVisible ? base(locator).toBeVisible({ timeout: 1 }) : base(locator).toBeHidden({ timeout: 1 });
      const error = await again.then(() => cause as Error).catch((error: unknown) => error as Error);
      return { pass: this.isNot, message: () => `After ${timeout / 1000} s: ${error.message}` };
    }
  };

export const expect = base.extend({ toBeVisible: afterWaiting('visible'), toBeHidden: afterWaiting('hidden') });
