import { readFileSync } from 'node:fs';
import { choose, dropFile, open } from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

test('the board is filtered, ordered, compared, read as a table and handed on', async ({ startAt }, info) => {
  const page = await startAt('surveyed');
  await open(page, 'Choose');
  const mods = page.getByRole('region', { name: 'Mods' });
  // Two clicks before the page is drawn again: the second does not take the first back.
  await mods
    .getByRole('link')
    .first()
    .evaluate((mod: HTMLElement) => {
      document.getElementById('build-2.9.4')!.click();
      mod.click();
    });
  await expect(page).toHaveURL(/build=2\.9\.4&mod=towline/);
  await open(page, 'Choose');
  await page.getByRole('link', { name: /^2\.9\.4, / }).click();
  await page.keyboard.press('/');
  await page.keyboard.type('honest fuel');
  await expect(page.getByText('1 of 38 mods')).toBeVisible();
  await expect(mods.getByRole('link')).toHaveCount(1);
  await page.getByLabel(/^Filter mods/).fill('');

  await expect(page.getByRole('heading', { name: 'Runner-up 2.8.1' })).toBeVisible();
  await page.getByRole('link', { name: 'Compare', exact: true }).click();
  await expect(page.getByRole('table', { name: '2.9.4 beside 2.8.1' })).toBeVisible();
  await expect(page.getByText(/^From 2\.8\.1 to 2\.9\.4: [\d,]+ files changed/)).toBeVisible();
  await page.getByRole('button', { name: 'Only differences from 2.8.1' }).click();
  await expect(page.getByText(/^\d+ of 38 mods$/)).toBeVisible();

  await page.getByText('Table', { exact: true }).click();
  const row = mods.getByRole('row', { name: /^Night pilotage/ });
  await expect(row).toContainText('Must have');
  await page.getByRole('button', { name: /^Export, / }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: /as Markdown$/ }).click(),
  ]);
  const file = info.outputPath('mods.md');
  await download.saveAs(file);
  const text = readFileSync(file, 'utf8');
  expect(text).toContain('38 of 38 mods run');
  expect(text).toMatch(/^\| Night pilotage \| must have \| 0\.8 \| 0\.8 \|/m);
});

test('why not all must-haves run, what has to give, and weaker evidence', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await open(page, 'Choose');
  await page.getByRole('link', { name: /^3\.1\.0, / }).click();
  await expect(page.getByRole('heading', { name: 'Why some must-haves do not run' })).toBeVisible();
  await expect(page.getByText(/^You must have /)).toBeVisible();
  const give = page.getByText(/^Fewest to give up: /);
  await expect(give).toContainText('Honest fuel');
  await page.getByRole('button', { name: /^Lower .* to “want”$/ }).click();
  await expect(give).toBeHidden();

  // The order of builds is put right by hand, and taken back.
  const labels = page.locator('[id^="build-"]');
  await page.getByRole('button', { name: 'Move later' }).click();
  await expect(labels.nth(7)).toHaveAttribute('id', 'build-3.1.0');
  await page.getByRole('button', { name: 'Restore the original order' }).click();
  await expect(labels.nth(6)).toHaveAttribute('id', 'build-3.1.0');

  await page.getByRole('link', { name: /^3\.2\.0, .*4 of 38 mods run/ }).click();
  await page.getByRole('link', { name: /^Signal lamps/ }).click();
  await page.locator('summary', { hasText: '1.1' }).click();
  await expect(page.getByText(/^62 reports that it runs on 3\.2\.0, 3 that it does not/)).toBeVisible();
  await page.getByRole('combobox', { name: 'Evidence that counts' }).click();
  await page.getByRole('option', { name: 'Likely, or better' }).click();
  await expect(page.getByRole('link', { name: /^3\.2\.0, .*\b(?!4 of)\d+ of 38 mods run/ })).toBeVisible();
  await expect(page.getByText(/mods? runs? on weaker evidence than the author’s word/)).toBeVisible();
});

test('mods come in from a table once every cell fits, and go with the decision', async ({ startAt }) => {
  const page = await startAt('surveyed');
  const heads = 'Name;Version;Supported builds;Needs;How much';
  const good = 'Lantern glow;1.0;up to 2.9.4;Towline 1.12 to 1.14;spare';
  await dropFile(page, 'mine.csv', `${heads}\n${good}\nKeel noise;0.3;4.0;Nobody 2;\n`);
  await page.getByRole('button', { name: 'Review the table' }).click();
  await expect(page.getByText('Line 3: Supported builds “4.0” contains no known build.')).toBeVisible();
  await expect(page.getByText('Line 3: Requirements “Nobody 2” is neither')).toBeVisible();
  await expect(page.getByText('No source tells of 1 build: 4.0')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Declare 1 build' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Import \d/ })).toBeDisabled();
  await expect(page.getByRole('button', { name: 'Import the good rows only' })).toBeEnabled();
  await page.getByRole('button', { name: 'Cancel' }).click();

  await page.getByLabel('or paste it').fill(`${heads}\n${good}\n`);
  await page.getByRole('button', { name: 'Read the pasted table' }).click();
  await page.getByRole('combobox', { name: 'Field for the column How much' }).click();
  await page.getByRole('option', { name: 'weight', exact: true }).click();
  await page.getByRole('button', { name: 'Import 1 mod with 1 release' }).click();
  await expect(page.getByText('1 mod with 1 release imported from pasted table.')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the board' }).click();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*39 of 39 mods run/ })).toBeVisible();
  await choose(page, '2.9.4');
  await page.reload();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*39 of 39 mods run, target/ })).toBeVisible();

  await page.getByRole('link', { name: 'Add mods' }).click();
  await page.getByLabel('Search the catalogue').fill('pilots');
  await page.getByRole('button', { name: 'Want Harbour pilots' }).click();
  await expect(page.getByText('Harbour pilots was added to your mods.')).toBeVisible();
  await page.goto(page.url().replace(/mods.*/, 'mods?mod=lantern-glow'));
  await page.getByRole('button', { name: 'Remove my details of Lantern glow' }).click();
  await expect(page.getByText('Your details of Lantern glow were removed.')).toBeVisible();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .* of 39 mods run/ })).toBeVisible();
  // The decision still speaks of it.
  await open(page, 'Fetch');
  await expect(page.getByText(/^lantern-glow 1\.0 is no longer in the catalogue/)).toBeVisible();
});

test('what is wanted of a mod is changed, and every build answers at once', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await open(page, 'Choose');
  await page.getByRole('link', { name: /^2\.9\.4, / }).click();
  await expect(page.getByText('No open build runs more of your mods.')).toBeVisible();
  await page.getByRole('link', { name: /^Crew rosters/ }).click();
  await page.getByPlaceholder('Best for each build').click();
  await page.getByRole('option', { name: '6.0' }).click();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*37 of 38 mods run/ })).toBeVisible();
  await expect(page.getByText('Crew rosters is pinned to 6.0, which does not run here')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*37 of 38 mods run/ })).toBeVisible();
  await page.getByPlaceholder('Best for each build').click();
  await page.getByRole('option', { name: '5.1' }).click();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*38 of 38 mods run/ })).toBeVisible();
});
