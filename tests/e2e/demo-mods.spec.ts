import { type Page } from '@playwright/test';
import { choose, closeStandIns, open, openStandIns } from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

/** Saves archives that players pass around, as a person does. */
async function savedArchives(page: Page, names: readonly string[]): Promise<string[]> {
  await openStandIns(page);
  const paths: string[] = [];
  for (const name of names) {
    const saved = page.waitForEvent('download');
    await page.getByRole('link', { name, exact: true }).click();
    const path = test.info().outputPath(name);
    await (await saved).saveAs(path);
    paths.push(path);
  }
  await closeStandIns(page);
  return paths;
}

const step = (page: Page, words: RegExp) =>
  page.getByRole('region', { name: 'Work list' }).getByRole('link', { name: words });

test('each mod of the demo that needs more than an update comes to its mended end', async ({ startAt }) => {
  const page = await startAt('surveyed');
  // One lies a folder too deep, of another an older file is left.
  await page.getByRole('button', { name: 'Move Reed banks there' }).click();
  await expect(page.getByText(/^Reed banks lies in the wrong place/)).toBeHidden();
  await page.getByRole('link', { name: 'Review and clean up' }).click();
  await page.getByRole('checkbox', { name: /^tables/ }).uncheck();
  await page.getByRole('button', { name: /^Set/ }).click();
  await expect(page.getByText(/Bell buoys 1\.1 lies beside/)).toBeHidden();

  await choose(page, '3.1.1');
  await page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true }).click();
  const [camera, reeds, water, hulls, rivets] = await savedArchives(page, [
    'Free camera 0.9.1.zip',
    'Reed colours 1.0.zip',
    'Starlit water 1.0.zip',
    'Rust and rivets 0.5.zip',
    'Rust and rivets 0.5, rivets.zip',
  ]);
  const add = (...archives: string[]) => page.getByLabel('Archives of mods').first().setInputFiles(archives);
  // The companion is missing, and named; with it the mod is whole.
  await add(hulls!);
  await expect(page.getByText(/1 file of it is in none of these archives/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await add(camera!, reeds!, water!, hulls!, rivets!);
  await expect(page.getByText('5 archives read')).toBeVisible();
  await page.getByRole('article', { name: 'Reed colours' }).getByRole('checkbox').nth(1).check();
  await page.getByRole('button', { name: 'Put 4 releases on the shelf' }).click();
  await expect(page.getByText(/^4 releases put on the shelf/)).toBeVisible();

  await open(page, 'Mend');
  await step(page, /Free camera 0\.9 → 0\.9\.1/).click();
  await expect(page.getByText(/who no longer maintains it/)).toBeVisible();
  await page.keyboard.press('d');
  await expect(step(page, /Free camera 0\.9\.1 .* done/)).toBeVisible();
  for (const mod of ['Reed colours', 'Starlit water']) {
    await step(page, new RegExp(mod)).click();
    await page.keyboard.press('d');
    await expect(step(page, new RegExp(`${mod} 1\\.0 .* done`))).toBeVisible();
  }

  // Two bring one file: the order says whose counts, and the game's own is below both.
  await page.keyboard.press('o');
  // Mend has such a filter as well.
  await expect(page.getByRole('main', { name: 'Load order' })).toBeVisible();
  await page.getByLabel('Filter mods by name').fill('Night sky');
  await page.getByRole('link', { name: /Night sky/ }).click();
  const file = page.getByRole('row', { name: /tx-050/ });
  await expect(file).toContainText('Starlit water');
  await page.keyboard.press('Alt+End');
  await expect(file).toContainText('this mod’s');
  await page.getByRole('button', { name: 'Write this order into the list' }).click();
  await expect(page.getByText('mods/load-order.txt has this order.')).toBeVisible();

  // Both are taken out, and the game's own file is there again.
  await open(page, 'Mend');
  for (const mod of ['Night sky', 'Starlit water']) {
    await step(page, new RegExp(mod)).click();
    await page.getByRole('button', { name: 'Take it out for now…' }).click();
    await page.getByRole('button', { name: 'Take it out', exact: true }).click();
    await expect(page.getByRole('listitem').filter({ hasText: new RegExp(`^${mod} [\\d.]+ out`) })).toBeVisible();
  }
  await open(page, 'Survey');
  await page.getByRole('button', { name: 'Check changed files only' }).click();
  await page.getByLabel('Filter by path').fill('tx-050');
  const found = page.getByRole('region', { name: 'Files' }).getByRole('link');
  await expect(found).toHaveCount(1);
  await expect(found).toHaveAccessibleName(/^correct textures\/.*tx-050/);
});
