import { cpSync, mkdirSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { type BrowserContext, type Page, test as base } from '@playwright/test';
import { arrived, isSurveyed } from './demo-way';
import {
  addOwnCatalogue,
  addOwnFolder,
  bringGame,
  makeOwnCatalogue,
  makeOwnSource,
  OWN_MODS,
  type OwnMaking,
  type OwnMods,
  serve,
  writeOwnFolder,
  writeOwnMods,
} from './own-game';
import { SERVED_ROOT, TESTS_TMP } from './served-root';

/** Browser profiles that have been part of the way, made once by `prepare.setup.ts`: laying out a folder takes long. */
const PROFILES = join(TESTS_TMP, 'profiles');

/** How far a profile has been: nowhere, at the demo's folder, or through it file by file. */
export type Start = 'new' | 'arrived' | 'surveyed';

export const profileFolder = (start: Start): string => join(PROFILES, start);

/** What a page shows that has been so far, and can be worked with. */
const SHOWS: Record<Exclude<Start, 'new'>, (page: Page) => Promise<void>> = { arrived, surveyed: isSurveyed };

/** The times of files as well: digests are known by them. */
export const copyProfile = (from: string, to: string): void =>
  cpSync(from, to, { recursive: true, preserveTimestamps: true });

interface Starts {
  /** The path of a folder of the test's own below the served root, and of others beside it; what lies there is gone before and after. */
  folderAt: (suffix?: string) => string;
  /** Makes and serves a source of the second game; the server ends with the test. `work` is a folder of the test's own, `asked` what it was asked for. */
  ownSource: (
    making?: OwnMaking,
  ) => Promise<{ readonly work: string; readonly source: string; readonly address: string; readonly asked: string[] }>;
  /**
   * A folder of the second game at its newest build, with mods as they were at the older one: served, with a source and a
   * catalogue, and checked. `more` puts more into the folder before that.
   */
  moddedFolder: (setup: {
    readonly mods?: OwnMods;
    readonly making?: OwnMaking;
    readonly more: (folder: string) => void;
  }) => Promise<{ readonly folder: string; readonly catalogue: string; readonly page: Page }>;
  /** Opens a browser profile of its own that has been so far; it is gone after the test. */
  startAt: (start: Start) => Promise<Page>;
}

export const test = base.extend<Starts>({
  folderAt: async ({}, hand, info) => {
    const paths: string[] = [];
    const clear = (path: string): void => rmSync(path, { recursive: true, force: true });
    await hand((suffix = '') => {
      const path = join(SERVED_ROOT, `${info.testId}${suffix}`);
      clear(path);
      paths.push(path);
      return path;
    });
    paths.forEach(clear);
  },
  ownSource: async ({}, hand, info) => {
    const servers: Server[] = [];
    await hand(async (making) => {
      const work = info.outputPath('work');
      mkdirSync(work, { recursive: true });
      const source = await makeOwnSource(work, making);
      const { address, asked, server } = await serve(source, true);
      servers.push(server);
      return { work, source, address, asked };
    });
    for (const server of servers) {
      server.closeAllConnections();
      server.close();
    }
  },
  moddedFolder: async ({ folderAt, ownSource, startAt }, hand, info) => {
    await hand(async ({ mods = OWN_MODS, making, more }) => {
      const folder = folderAt();
      const { builds = 2, add } = making ?? {};
      const { source, address } = await ownSource(making);
      const catalogue = new URL(makeOwnCatalogue(source, mods), address).href;
      writeOwnFolder(folder, builds);
      add?.(folder, builds);
      writeOwnMods(folder, mods);
      more(folder);
      const page = await startAt('new');
      await bringGame(page, address);
      await addOwnCatalogue(page, catalogue, Object.keys(mods).length);
      await addOwnFolder(page, info.testId, `harvest ${builds}`);
      return { folder, catalogue, page };
    });
  },
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
