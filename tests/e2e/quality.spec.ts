import { gzipSync } from 'node:zlib';
import AxeBuilder from '@axe-core/playwright';
import type { Page, Response } from '@playwright/test';
import { rar } from '../../core/testing/packed-archives';
import { choose, open } from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

const STAGES = ['Survey', 'Choose', 'Fetch', 'Assemble', 'Hold', 'Mend'];

/** What is serious of a page as it stands. Of one that was looked at in light, the dark scheme changes colours alone. */
async function seriousFindings(page: Page, colorScheme: 'light' | 'dark' = 'light'): Promise<string[]> {
  const axe = new AxeBuilder({ page });
  if (colorScheme === 'dark') axe.withRules(['color-contrast', 'link-in-text-block']);
  const { violations } = await axe.analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 120)).join(' | ')}`);
}

test('no stage has a serious finding of accessibility, light or dark', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await choose(page, '2.9.4');
  for (const stage of STAGES) {
    await open(page, stage);
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
      expect(await seriousFindings(page, colorScheme), `${stage}, ${colorScheme}`).toEqual([]);
    }
  }
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Add a folder' })).toBeVisible();
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
    expect(await seriousFindings(page, colorScheme), `folders, ${colorScheme}`).toEqual([]);
  }
  await page.keyboard.press('y');
  await expect(page.getByRole('main', { name: 'History' })).toBeVisible();
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
    expect(await seriousFindings(page, colorScheme), `history, ${colorScheme}`).toEqual([]);
  }
  await page.keyboard.press('l');
  const quince = Buffer.from(rar([['low/quince.fwm', Buffer.from('quince')]]));
  await page.getByLabel('Archives of mods').first().setInputFiles({ name: 'Quince.rar', mimeType: '', buffer: quince });
  await expect(page.getByRole('article', { name: 'Quince' })).toBeVisible();
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme, reducedMotion: 'reduce' });
    expect(await seriousFindings(page, colorScheme), `shelf, ${colorScheme}`).toEqual([]);
  }
  await page.goto(page.url().replace(/shelf.*/, 'survey?clean=up'));
  await expect(page.getByRole('region', { name: 'Files to clean up' })).toBeVisible();
  expect(await seriousFindings(page), 'clean-up').toEqual([]);
  await page.goto(page.url().replace(/survey.*/, 'log'));
  await page.getByLabel('Log', { exact: true }).fill(`"a/b.c" ${'0a'.repeat(32)}`);
  await page.getByRole('button', { name: 'Find checksums' }).click();
  await expect(page.getByText('unknown', { exact: true })).toBeVisible();
  expect(await seriousFindings(page), 'logs').toEqual([]);
  await page.getByRole('button', { name: 'Stand-ins', exact: true }).click();
  await expect(page.getByTestId('one-time-code')).toBeVisible();
  expect(await seriousFindings(page), 'stand-ins').toEqual([]);
});

test('the keyboard alone goes from an unknown folder to a chosen build', async ({ startAt }) => {
  const page = await startAt('arrived');
  const survey = page.getByRole('button', { name: /Check every file/ });
  await expect(survey).toBeVisible();
  while (!(await survey.evaluate((element) => element === document.activeElement))) await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
  await page.keyboard.press('c');
  await expect(page.getByRole('main', { name: 'Choose' })).toBeVisible();
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/mod=bollard/);
  await page.keyboard.press('b');
  // The recommended build is open; one step away and back again.
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[id="build-3.0.0"]')).toBeFocused();
  await page.keyboard.press('ArrowLeft');
  await expect(page.locator('[id="build-2.9.4"]')).toBeFocused();
  const make = page.getByRole('button', { name: 'Select build 2.9.4' });
  while (!(await make.evaluate((element) => element === document.activeElement))) await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Build 2.9.4 is selected' })).toBeVisible();
  await page.keyboard.press('Shift+?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
});

test('scripts run only with the page’s own nonce, and the first page’s script is small', async ({ page }) => {
  const answer = await page.request.get('/');
  const policy = answer.headers()['content-security-policy']!;
  const nonce = /script-src 'self' 'nonce-([^']+)'/.exec(policy)?.[1];
  expect(nonce).toBeTruthy();
  expect(policy).not.toMatch(/script-src[^;]*unsafe/);
  const inline = [...(await answer.text()).matchAll(/<script(?![^>]*\bsrc=)([^>]*)>/g)];
  expect(inline.length).toBeGreaterThan(0);
  for (const [, attributes] of inline) expect(attributes).toContain(`nonce="${nonce}"`);

  const scripts: Response[] = [];
  const hear = (response: Response): void => {
    // Workers load theirs when the page is there.
    const isOfPage = response.request().resourceType() === 'script' && !/worker-/.test(response.url());
    if (isOfPage) scripts.push(response);
  };
  page.on('response', hear);
  await page.goto('/');
  // All that the first page needs is there once it is drawn. What comes later, while the folder is laid out or after that, is of
  // another page: how much of it has come when the network is still depended on the machine.
  await expect(page.getByText(/is a made-up game/)).toBeVisible();
  page.off('response', hear);
  const sizes = await Promise.all(scripts.map(async (script) => gzipSync(await script.body()).length));
  const bytes = sizes.reduce((sum, size) => sum + size, 0);
  console.log(`script of the first page, compressed: ${bytes} bytes in ${sizes.length} files`);
  expect(bytes).toBeLessThan(250_000);
});
