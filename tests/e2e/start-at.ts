import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BrowserContext, type Page, test as base } from '@playwright/test';
import { arrived, isSurveyed } from './demo-way';

/** Browser profiles that have been part of the way, made once by `prepare.setup.ts`: laying out a folder takes long. */
const PROFILES = join(tmpdir(), 'regressum-e2e-profiles');

/** How far a profile has been: nowhere, at the demo's folder, or through it file by file. */
export type Start = 'new' | 'arrived' | 'surveyed';

export const profileFolder = (start: Start): string => join(PROFILES, start);

/** What a page shows that has been so far, and can be worked with. */
const SHOWS: Record<Exclude<Start, 'new'>, (page: Page) => Promise<void>> = { arrived, surveyed: isSurveyed };

/** The times of files as well: digests are known by them. */
export const copyProfile = (from: string, to: string): void =>
  cpSync(from, to, { recursive: true, preserveTimestamps: true });

interface Starts {
  /** Opens a browser profile of its own that has been so far; it is gone after the test. */
  startAt: (start: Start) => Promise<Page>;
}

export const test = base.extend<Starts>({
  startAt: async ({ playwright }, hand, info) => {
    const opened: { context: BrowserContext; folder: string }[] = [];
    await hand(async (start) => {
      const folder = info.outputPath(`profile-${opened.length}`);
      mkdirSync(folder, { recursive: true });
      if (start !== 'new') copyProfile(profileFolder(start), folder);
      const context = await playwright.chromium.launchPersistentContext(folder);
      opened.push({ context, folder });
      // The stand-ins know a profile by its cookie: copies must not share what is released, slow or faulty.
      await context.clearCookies();
      const page = context.pages()[0]!;
      if (start !== 'new') {
        await page.goto('/');
        await SHOWS[start](page);
      }
      return page;
    });
    for (const { context, folder } of opened) {
      await context.close();
      rmSync(folder, { recursive: true, force: true });
    }
  },
});
