import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { arrived, open, surveyed } from './demo-way';
import { writeDemoTree } from './demo-tree';
import { SERVED_ROOT, SERVED_TOKEN } from './served-root';

test('a quick look names the build by next to no bytes, and the frame knows it', async ({ page }) => {
  await arrived(page);
  await page.getByRole('button', { name: 'Take a quick look' }).click();
  await expect(page.getByRole('heading', { name: 'This looks like 3.1.1' })).toBeVisible();
  const read = page.getByText('Bytes read').locator('xpath=following-sibling::dd[1]');
  const percent = Number(/([\d.]+) %/.exec((await read.textContent())!)![1]);
  expect(percent).toBeLessThan(1);
  await expect(page.getByRole('row', { name: /^Program 3\.1\.1 8 \/ 8/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'This looks like 3.1.1' })).toBeVisible();
  await expect(page.getByText(/^quick look/)).toBeVisible();
});

test('a folder goes out as a checksum list, and the list comes in as a folder of its own', async ({ page }, info) => {
  await surveyed(page);
  const [whole] = await page.getByText(/^\d[\d,]* files$/).allTextContents();
  await page.getByRole('button', { name: /^Export/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'The folder as a checksum list' }).click();
  const file = info.outputPath('folder.sha256');
  await (await download).saveAs(file);
  const lines = readFileSync(file, 'utf8').trim().split('\n');
  expect(lines.filter((line) => /^[0-9a-f]{64} {2}\S/.test(line)).length).toBeGreaterThan(1000);

  await page.getByRole('button', { name: /^Export/ }).click();
  const table = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: /shown as CSV$/ }).click();
  const csv = info.outputPath('survey.csv');
  await (await table).saveAs(csv);
  const [head, ...rows] = readFileSync(csv, 'utf8').trim().split('\r\n');
  expect(head).toBe('path,state,bytes,depot,whose');
  expect(`${new Intl.NumberFormat('en').format(rows.length)} files`).toBe(whole);

  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await page.getByLabel('Name', { exact: true }).fill('By its list');
  await page.locator('input[aria-label="Checksum list"]').setInputFiles(file);
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'By its list' })).toBeVisible();
  await expect(page.getByText('1 altered file', { exact: true })).toBeVisible();
  await open(page, 'Choose');
  await page
    .getByRole('navigation', { name: 'Stages' })
    .getByRole('link', { name: /^Assemble/ })
    .click();
  await expect(page.getByRole('heading', { name: 'folder.sha256 can only be looked at' })).toBeVisible();
});

test('a folder is handed over, looked at, asked for again after a reload, and forgotten', async ({ page }, info) => {
  await arrived(page);
  const folder = info.outputPath('old-copy');
  mkdirSync(`${folder}/tables`, { recursive: true });
  writeFileSync(`${folder}/tables/own.csv`, 'a,b\n1,2\n');
  writeFileSync(`${folder}/note.txt`, 'what is this');
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();

  await page.getByLabel('or paste it').fill(`${'0'.repeat(64)}  a\n${'0'.repeat(63)}  b\n`);
  await page.getByRole('button', { name: 'Read the pasted list' }).click();
  await expect(page.getByRole('alert')).toContainText('line 2');
  await page.getByLabel('or paste it').fill(`${'0'.repeat(32)}  a\n`);
  await page.getByRole('button', { name: 'Read the pasted list' }).click();
  await expect(page.getByRole('alert')).toContainText('The manifests have no md5');
  await expect(page.getByRole('region', { name: 'Folders: list' }).getByRole('link')).toHaveCount(1);

  await page.locator('input[aria-label="Folder to hand over"]').setInputFiles(folder);
  await expect(page.getByRole('heading', { name: 'No known build' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Hash every file in old-copy' }).click();
  await expect(page.getByText('2 stray files')).toBeVisible();
  await page.reload();
  const again = page.locator('input[aria-label="Hand over old-copy again"]');
  writeFileSync(`${folder}/another.txt`, 'and this');
  await again.setInputFiles(folder);
  await page.getByRole('button', { name: 'Hash every file in old-copy' }).click();
  await expect(page.getByText('3 stray files')).toBeVisible();

  await page.getByRole('link', { name: 'old-copy', exact: true }).click();
  await page.getByRole('button', { name: 'Take old-copy off the list' }).click();
  await page.getByRole('button', { name: 'Forget old-copy' }).click();
  await expect(page.getByRole('link', { name: 'Ferrywake', exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Folders: list' }).getByRole('link')).toHaveCount(1);
});

test('a served folder that was mended by hand is named for what it is', async ({ page }, info) => {
  const folder = `${SERVED_ROOT}/${info.testId}`;
  mkdirSync(info.outputPath(), { recursive: true });
  try {
    // Data of 2.9.4, the small depot with the program forgotten, and a language that is not wanted.
    await writeDemoTree(info.outputPath(), folder, [
      ...['core', 'core-fixes', 'world-east', 'world-west', 'fine-textures', 'voices-de'].map(
        (depot): [string, string] => [depot, '2.9.4'],
      ),
      ['program', '3.1.1'],
    ]);
    await arrived(page);
    await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
    await page.getByLabel('Token that was printed at the start').fill('guessed');
    await page.getByRole('button', { name: 'Show what is served' }).click();
    await expect(page.getByRole('alert')).toContainText('the token is not right');
    await page.getByLabel('Token that was printed at the start').fill(SERVED_TOKEN);
    await page.getByRole('button', { name: 'Show what is served' }).click();
    await page.getByLabel('Folder below it').fill(info.testId);
    await page.getByRole('button', { name: `Bring in ${info.testId}` }).click();
    await expect(page.getByRole('heading', { name: 'A mixture of builds' })).toBeVisible();
    await page.getByRole('button', { name: `Hash every file in ${info.testId}` }).click();
    await expect(page.getByText('Data of 2.9.4 under the program of 3.1.1')).toBeVisible();
    await expect(page.getByText(/files of voices-de lie where those of Voices, English belong/)).toBeVisible();
    await expect(page.getByText('Nothing of Winter Ice is there')).toBeVisible();
    await expect(page.getByText(/^\d[\d,]* absent files$/)).toBeVisible();

    // Another start has another token: it is asked for where it is needed.
    await page.evaluate(() => localStorage.clear());
    await page.getByRole('button', { name: 'Take a quick look' }).click();
    await page.getByLabel('Token that was printed at the start').fill(SERVED_TOKEN);
    await page.getByRole('button', { name: 'Use this token' }).click();
    await page.getByRole('button', { name: 'Take a quick look' }).click();
    await expect(page.getByText(/^A quick look .* found a mixture of builds/)).toBeVisible();
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
