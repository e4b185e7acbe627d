import { existsSync, mkdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { type Page } from '@playwright/test';
import { digestsOf } from './demo-tree';
import { open } from './demo-way';
import { expect } from './expect';
import { addOwnFolder, bringGame, fileSays, put, writeOwnFolder } from './own-game';
import { test } from './start-at';

async function inFolders(page: Page, part: string): Promise<void> {
  await page.getByTitle('All folders; add another').click();
  await page.getByText(part, { exact: true }).click();
}

test('a folder is copied, shares saves with its copy, is deleted and taken back, is found where it was moved, and moved', async ({
  folderAt,
  ownSource,
  startAt,
}, info) => {
  const folder = folderAt();
  const copy = folderAt('-copy');
  const moved = folderAt('-moved');
  const third = folderAt('-third');
  for (const path of [copy, third]) mkdirSync(path, { recursive: true });
  const { address } = await ownSource();
  writeOwnFolder(folder, 1);
  put(join(folder, 'grafts/pear.set'), 'sweet=1');
  const page = await startAt('new');
  await bringGame(page, address);
  await addOwnFolder(page, info.testId, 'harvest 1');
  const before = digestsOf(folder);

  await inFolders(page, 'Copy or move');
  const copying = page.getByRole('group').filter({ hasText: 'Copy or move' });
  await copying.getByLabel('Subfolder').fill(`${info.testId}-copy`);
  await copying.getByRole('button', { name: `Copy into ${info.testId}-copy` }).click();
  await expect(page.getByRole('heading', { name: 'harvest 1', exact: true })).toBeVisible();
  await expect.poll(() => digestsOf(copy)).toBe(before);
  // A save that was made in the first folder comes into the copy, and what was set of a mod as well.
  put(join(folder, 'profile/saves/two.sav'), 'a second save');
  put(join(folder, 'grafts/pear.set'), 'sweet=2');
  await page.getByRole('banner').getByRole('link', { name: 'Keepsakes', exact: true }).click();
  await page.getByRole('button', { name: `Compare with ${info.testId}` }).click();
  await expect(page.getByRole('heading', { name: new RegExp(`From the folder ${info.testId}`) })).toBeVisible();
  await page.getByRole('button', { name: 'Put 2 files back' }).click();
  await expect.poll(() => existsSync(join(copy, 'profile/saves/two.sav'))).toBe(true);
  await fileSays(join(copy, 'grafts/pear.set'), 'sweet=2');

  // The copy's files are deleted: what nobody else has is named and kept, and all of it comes back.
  await open(page, 'Survey');
  await page.getByRole('button', { name: /^Check every file/ }).click();
  const whole = digestsOf(copy);
  await inFolders(page, 'Delete its files');
  await expect(page.getByText('grafts/pear.graft')).toBeVisible();
  await page.getByRole('button', { name: /^Delete \d+ files$/ }).click();
  await expect(page.getByText(/^Its files are deleted\./)).toBeVisible();
  expect(digestsOf(copy)).toBe('');
  await page.getByRole('banner').getByRole('link', { name: 'History', exact: true }).click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(() => digestsOf(copy)).toBe(whole);
  // While the change ends, it still writes.
  await expect(page.getByRole('region', { name: 'Changes, newest first' })).toContainText('taken back');

  // A storefront moves the folder: it is shown where it lies now, with all that was known of it.
  renameSync(copy, moved);
  await inFolders(page, 'It lies elsewhere now');
  const finding = page.getByRole('group').filter({ hasText: 'It lies elsewhere now' });
  await finding.getByLabel('Subfolder').fill(`${info.testId}-moved`);
  await finding.getByRole('button', { name: `It is ${info.testId}-moved now` }).click();
  await page.getByRole('banner').getByRole('link', { name: 'History', exact: true }).click();
  await page.getByRole('button', { name: 'Make it again' }).click();
  await expect.poll(() => digestsOf(moved)).toBe('');

  // The first one is moved by the program: copied whole, and then deleted where it was. A save was kept there, and changed.
  const toFirst = async (): Promise<void> => {
    await page.getByTitle('All folders; add another').click();
    await expect(page.getByText('Copy or move', { exact: true })).toBeVisible();
    await page.locator('[data-item]').filter({ hasText: info.testId, hasNotText: 'copy' }).click();
    await expect(page.getByTitle('All folders; add another')).toHaveText(info.testId);
  };
  const toKept = async (): Promise<void> => {
    await page.getByRole('banner').getByRole('link', { name: 'Keepsakes', exact: true }).click();
    await page.getByRole('link', { name: /Kept by hand/ }).click();
  };
  await toFirst();
  await page.getByRole('banner').getByRole('link', { name: 'Keepsakes', exact: true }).click();
  await page.getByRole('button', { name: /^Keep \d+ files as they are now$/ }).click();
  await expect(page.getByRole('link', { name: /Kept by hand/ })).toBeVisible();
  put(join(folder, 'profile/saves/two.sav'), 'a later save');
  const first = digestsOf(folder);
  await inFolders(page, 'Copy or move');
  await page.getByRole('radiogroup', { name: 'Copy or move' }).getByText('Move').click();
  await copying.getByLabel('Name').fill('Third');
  await copying.getByLabel('Subfolder').fill(`${info.testId}-third`);
  await copying.getByRole('button', { name: `Move into ${info.testId}-third` }).click();
  await expect.poll(() => digestsOf(third)).toBe(first);
  await expect.poll(() => digestsOf(folder)).toBe('');

  // Its keepsake came along into the same store. Deleted there, it is whole here still.
  await toKept();
  await page.getByRole('button', { name: 'Delete this keepsake' }).click();
  await expect(page.getByRole('link', { name: /Kept by hand/ })).toBeHidden();
  await toFirst();
  await toKept();
  await page.getByRole('button', { name: /^Put \d+ files back/ }).click();
  await expect.poll(() => existsSync(join(folder, 'profile/saves/two.sav'))).toBe(true);
  expect(readFileSync(join(folder, 'profile/saves/two.sav'), 'utf8')).toBe('a second save');
});
