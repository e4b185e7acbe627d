import type { ChildProcess } from 'node:child_process';
import { test } from '@playwright/test';
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core';
import { startServer } from '../../scripts/server.mjs';
import { expect } from './expect';
import { FIREFOX, TEST_PORT } from './served-root';

/*
 * The way of the demo in a second browser engine, as it is packaged, by WebDriver BiDi. A question about lasting storage is asked there of
 * the person, and here answered by nobody.
 */

/** Only what hangs takes so long. */
const HANGS_MS = 300_000;

/** A server of its own, whose world has as few files as it can: this browser takes a tenth of a second for each that it writes. */
const PORT = TEST_PORT + 1;
const SMALLEST = { REGRESSUM_DEMO: 'yes', REGRESSUM_DEMO_FILES: '0.01', REGRESSUM_DEMO_BYTES: '0.1' };

let browser: Browser;
let server: ChildProcess;
test.beforeAll(async () => {
  server = await startServer(PORT, SMALLEST, { stdio: ['ignore', 'ignore', 'inherit'] });
  browser = await puppeteer.launch({
    ...{ browser: 'firefox', executablePath: FIREFOX, headless: true, protocolTimeout: HANGS_MS },
  });
});
test.afterAll(async () => {
  await browser.close();
  server.kill('SIGKILL');
});

/** The first element that can be seen, with a name or a text as it is looked for; nothing that cannot be used where it is to be. */
async function found(page: Page, selector: string, name: RegExp, toUse = true): Promise<ElementHandle<Element>> {
  const handle = await page.waitForFunction(
    (selector, source, toUse) =>
      [...document.querySelectorAll(selector)].find((element) => {
        const says = element.getAttribute('aria-label') ?? element.textContent ?? '';
        return (
          new RegExp(source).test(says.trim()) && element.checkVisibility() && !(toUse && element.matches(':disabled'))
        );
      }),
    { timeout: HANGS_MS, polling: 100 },
    selector,
    name.source,
    toUse,
  );
  return handle.asElement() as ElementHandle<Element>;
}

/** By the page's own events: where a button is meanwhile is the layout's. */
async function press(page: Page, selector: string, name: RegExp): Promise<void> {
  await (await found(page, selector, name)).evaluate((element) => (element as HTMLElement).click());
}

const button = (page: Page, name: RegExp): Promise<void> => press(page, 'button', name);
const shows = (page: Page, name: RegExp): Promise<unknown> =>
  found(page, 'h1, h2, h3, p, li, dd, span, div, button', name, false);

async function fill(page: Page, label: RegExp, text: string): Promise<void> {
  const field = await found(page, 'label', label);
  await field.evaluate((element) => (element as HTMLLabelElement).control!.focus());
  await page.keyboard.type(text);
}

async function open(page: Page, stage: string): Promise<void> {
  await press(page, 'nav[aria-label="Stages"] a', new RegExp(`^${stage}`));
  await page.waitForSelector(`main[aria-label="${stage}"]`, { timeout: HANGS_MS });
}

test('the way of the demo, from an unknown folder to a held build, in a second browser engine', async () => {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await button(page, /^Check every file/);
  await shows(page, /^3\.1\.1$/);

  await open(page, 'Choose');
  await press(page, 'a', /^2\.9\.4, /);
  await button(page, /^Select build 2\.9\.4$/);
  await shows(page, /^Build 2\.9\.4 is selected$/);

  await open(page, 'Fetch');
  await fill(page, /^Name/, 'ferryhand');
  await fill(page, /^Passphrase/, 'lantern-over-water');
  await button(page, /^Request a one-time code$/);
  await button(page, /^Stand-ins$/);
  const code = await found(page, '[data-testid="one-time-code"]', /^\d{6}$/);
  await fill(page, /^One-time code/, (await code.evaluate((element) => element.textContent))!);
  await button(page, /^Sign in with this code$/);
  await shows(page, /as ferryhand\./);
  await button(page, /^Close the stand-ins$/);
  await button(page, /^Fetch [\d.]+ .?B of/);
  await shows(page, /^Everything for .* is on this disk/);

  await open(page, 'Assemble');
  await button(page, /^Lay down 2\.9\.4 beside/);
  await shows(page, /in place, byte for byte/);
  await button(page, /^Start the game$/);
  await shows(page, /Title screen of 2\.9\.4, 38 mods loaded/);

  await open(page, 'Hold');
  await button(page, /^Hold 2\.9\.4/);
  await shows(page, /^Nothing has drifted\.$/);
  expect(await page.title()).toContain('Regressum');
});
