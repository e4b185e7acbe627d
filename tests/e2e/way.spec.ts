import { expect, test } from '@playwright/test';
import { choose, fetchAll, layDown, open, signIn, startGame, surveyed } from './demo-way';

test('a self-updated folder is told file by file, and nothing leaves the machine', async ({ page }) => {
  const outside: string[] = [];
  page.on('request', (request) => {
    if (!/^(http:\/\/127\.0\.0\.1|blob:|data:)/.test(request.url())) outside.push(request.url());
  });
  await surveyed(page);
  await expect(page.getByText('Your saves')).toBeVisible();
  await expect(page.getByText('Left over from 2.9.4').first()).toBeVisible();
  await expect(page.getByText(/Reed banks was unpacked in the wrong place/)).toBeVisible();
  await expect(page.getByText(/Bell buoys 1.1 lies beside files of 1.0/)).toBeVisible();
  expect(outside).toEqual([]);
});

test('the way back: choose, fetch, lay down, start, and let the old folder go', async ({ page }) => {
  await surveyed(page);
  await choose(page, '2.9.4');
  await page.reload();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*38 of 38 mods run.*target/ })).toBeVisible();
  await signIn(page);
  await fetchAll(page);
  await layDown(page, '2.9.4');
  await startGame(page);
  await expect(page.getByText(/Title screen of 2\.9\.4, 38 mods loaded/)).toBeVisible();
  await page.getByRole('button', { name: 'Go back to the old folder' }).click();
  await expect(page.getByRole('button', { name: 'Lay down 2.9.4 beside 3.1.1' })).toBeVisible();
  await page.getByRole('button', { name: 'Go back to the old folder' }).click();
  await expect(page.getByText('lies here as it should')).toBeVisible();
  await page.getByRole('button', { name: /^Remove the old folder/ }).click();
  await expect(page.getByRole('button', { name: /^Remove the old folder/ })).toBeHidden();
  await open(page, 'Survey');
  await expect(page.getByRole('heading', { name: '2.9.4' })).toBeVisible();
});

test('what is wanted of a mod is changed, and every build answers at once', async ({ page }) => {
  await surveyed(page);
  await open(page, 'Choose');
  await page.getByRole('link', { name: /^2\.9\.4, / }).click();
  await expect(page.getByText('No open build runs more of what you must have and want.')).toBeVisible();
  await page.getByRole('link', { name: /^Crew rosters/ }).click();
  await page.getByPlaceholder('the best one at each build').click();
  await page.getByRole('option', { name: '6.0' }).click();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*37 of 38 mods run/ })).toBeVisible();
  await expect(page.getByText('Crew rosters is pinned to 6.0, which does not run here')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*37 of 38 mods run/ })).toBeVisible();
  await page.getByPlaceholder('the best one at each build').click();
  await page.getByRole('option', { name: '5.1' }).click();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*38 of 38 mods run/ })).toBeVisible();
});
