import { readFileSync } from 'node:fs';
import AxeBuilder from '@axe-core/playwright';
import { expect } from '@playwright/test';
import { open, signInHere } from './demo-way';
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
