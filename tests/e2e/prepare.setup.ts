import { rmSync } from 'node:fs';
import { type Page } from '@playwright/test';
import { arrived, surveyed } from './demo-way';
import { copyProfile, profileFolder, test } from './start-at';

/** Each goes on where the one before it stopped. */
const WAYS: readonly ['arrived' | 'surveyed', (page: Page) => Promise<void>][] = [
  ['arrived', arrived],
  ['surveyed', surveyed],
];

test('browser profiles go part of the way, for the tests that begin there', async ({ playwright }) => {
  let before: string | undefined;
  for (const [start, go] of WAYS) {
    const folder = profileFolder(start);
    rmSync(folder, { recursive: true, force: true });
    if (before !== undefined) copyProfile(before, folder);
    const context = await playwright.chromium.launchPersistentContext(folder);
    const page = context.pages()[0]!;
    await page.goto('/');
    await go(page);
    await context.close();
    before = folder;
  }
});
