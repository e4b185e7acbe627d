import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { digestsOf } from './demo-tree';
import { open, signInHere, wantModsFound } from './demo-way';
import { expect } from './expect';
import { fileSays, put } from './own-game';
import { test } from './start-at';

test('mods that the patch left behind are carried forward: a table with conflicts decided, others at once', async ({
  startAt,
}) => {
  const page = await startAt('surveyed');
  await open(page, 'Mend');
  await page.getByLabel('Filter mods by name').fill('lockkeeper');
  await page.getByRole('link', { name: /Lockkeeper routes/ }).click();
  await page.getByRole('link', { name: 'Carry 2.4 forward to 3.1.1' }).click();
  await expect(page.getByRole('heading', { name: '2.4, carried to 3.1.1' })).toBeVisible();
  await expect(page.getByRole('heading', { name: '2 files to fetch first' })).toBeVisible();
  await signInHere(page);
  await page.getByRole('button', { name: /^Fetch \d/ }).click();

  // The table has two places that both have changed; all else is merged without asking.
  const places = page.getByRole('region', { name: 'Places that differ' });
  await page.getByRole('link', { name: /tables\/locks\.csv/ }).click();
  await expect(page.getByRole('link', { name: /tables\/locks\.csv 2 to decide/ })).toBeVisible();
  await expect(
    page.getByRole('link', { name: /settings\/defaults-004\.ini \d+ changes without conflict/ }),
  ).toBeVisible();
  await expect(page.getByText(/^It raises fee in \d+ rows/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Carry 2 files forward' })).toBeDisabled();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  const first = page.getByRole('region', { name: /^Decide r\d+, fee/ });
  const kept = first.getByRole('button', { name: /^Keep the mod’s raise: \d+$/ });
  const value = (await kept.textContent())!.replace(/\D/g, '');
  await kept.click();
  await expect(page.getByRole('link', { name: /tables\/locks\.csv 1 to decide/ })).toBeVisible();
  await expect(places.getByRole('link', { name: new RegExp(`${value} decided`) })).toBeVisible();
  // The other one by a rule for the whole column, which can be taken back.
  await page.getByLabel('For every fee of this file that both changed, also after the next patch').check();
  await page.getByRole('button', { name: /^Take the game’s/ }).click();
  await expect(
    page.getByRole('link', { name: /tables\/locks\.csv \d+ changes without conflict, 2 decided/ }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Take the rule back' }).click();
  await expect(page.getByRole('link', { name: /tables\/locks\.csv 1 to decide/ })).toBeVisible();
  await page.getByRole('button', { name: 'Write a value' }).click();
  await page.getByRole('textbox', { name: 'Value' }).fill('777');
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByRole('link', { name: /locks\.csv \d+ changes without conflict, 2 decided/ })).toBeVisible();

  // What is given on says what was decided.
  const patch = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Unified diff' }).click();
  const text = readFileSync(await (await patch).path(), 'utf8');
  expect(text).toContain('+++ b/mods/lockkeeper-routes/tables/locks.csv');
  expect(text).toMatch(/^\+r\d+,.*,777,/m);

  // A reload in the middle loses nothing.
  await page.reload();
  await page.getByRole('button', { name: 'Carry 2 files forward' }).click();
  await expect(page.getByText('Lockkeeper routes 2.4+3.1.1 is on the shelf.')).toBeVisible();

  // Those without a conflict are carried at once.
  await open(page, 'Mend');
  await page.getByRole('link', { name: 'Carry mods forward' }).click();
  await expect(page.getByRole('heading', { name: /mods? to carry to 3\.1\.1$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Carry all that have no conflict' }).click();
  const outcomes = page.getByRole('list', { name: 'What came of it' });
  await expect(outcomes.getByText('Wharf ledger 0.6+3.1.1 carried')).toBeVisible();
  await expect(outcomes.getByText('Ledger screens 0.9+3.1.1 carried')).toBeVisible();

  // A carried release is taken as any other is.
  await open(page, 'Mend');
  await page.getByLabel('Filter mods by name').fill('lockkeeper');
  await page.getByRole('link', { name: /Lockkeeper routes 2\.4 → 2\.4\+3\.1\.1/ }).click();
  await page.getByRole('button', { name: 'Update Lockkeeper routes to 2.4+3.1.1' }).click();
  await expect(page.getByRole('link', { name: /Lockkeeper routes 2\.4\+3\.1\.1 \S+ done/ })).toBeVisible();
});

/** The prices of the second game at a build; the third one has given a graft another name. */
function pricesAt(build: number, own: ReadonlyMap<number, number> = new Map()): string {
  const rows = Array.from({ length: 30 }, (_, i) => {
    const name = build > 2 && i === 4 ? 'Old graft 4' : `Graft ${i}`;
    const price = own.get(i) ?? i + (build > 1 && i % 5 === 1 ? 10 : 0) + (build > 2 && i % 5 === 2 ? 20 : 0);
    return `${name},${i},${price}\n`;
  });
  return ['name,id,price\n', ...rows].join('');
}

test('in a folder of another game, what a mod was made for is found, and its rows told apart as a person says', async ({
  moddedFolder,
}) => {
  const own = new Map([
    [3, 77],
    [4, 99],
  ]);
  const path = 'grafts/plum/data/prices.csv';
  const { folder, page } = await moddedFolder({
    mods: {
      plum: [{ version: '1', builds: [], touches: ['data/prices.csv'], more: [[path, pricesAt(2, own)]] }],
      quince: [{ version: '5', builds: [1, 2, 3] }],
    },
    making: { builds: 3, add: (at, build) => put(join(at, 'data/prices.csv'), pricesAt(build)) },
    more: () => undefined,
  });
  await wantModsFound(page, 2);
  const before = digestsOf(folder);
  await open(page, 'Mend');
  await page.getByRole('link', { name: 'Carry mods forward' }).click();
  await page.getByRole('link', { name: /^Plum/ }).click();
  await expect(page.getByText('Taken to be made for harvest 2: nobody says.')).toBeVisible();
  await expect(page.getByText(/files at each of 2 builds are compared with it/)).toBeVisible();
  await page.getByRole('button', { name: /^Fetch \d/ }).click();
  await expect(
    page.getByText(/Its files are nearest to those of harvest 2: 2 places differ, and 8 from/),
  ).toBeVisible();

  // By its name a row of the mod is gone; by its number it is there.
  const file = page.getByRole('link', { name: /prices\.csv/ });
  await expect(file).toContainText('1 to decide');
  const keys = page.getByRole('combobox', { name: 'Rows are told apart by' });
  await keys.press('ArrowDown');
  await page.getByRole('option', { name: 'id', exact: true }).click();
  await page.getByRole('option', { name: 'name', exact: true }).click();
  await expect(file).toContainText('9 changes without conflict');
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Look at prices.csv as it becomes…' }).click();
  const lines = page.getByRole('region', { name: 'Lines of the file' });
  await expect(lines).toContainText('+ Old graft 4,4,99');
  await expect(lines).toContainText('Graft 3,3,77');
  await page.keyboard.press('Escape');
  expect(digestsOf(folder)).toBe(before);

  await page.getByRole('button', { name: 'Carry 1 file forward' }).click();
  await page.getByRole('link', { name: 'Take its step in Mend' }).click();
  await page.getByRole('button', { name: /^Update Plum to 1\+/ }).click();
  await fileSays(join(folder, path), pricesAt(3, own));
});
