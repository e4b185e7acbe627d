import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { BlobReader, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import { dropFile, open, putIntoFolder } from './demo-way';
import { writeDemoTree } from './demo-tree';
import { expect } from './expect';
import { SERVED_TOKEN } from './served-root';
import { test } from './start-at';

/** Unpacks an archive below a folder. */
async function unpack(archive: string, folder: string): Promise<void> {
  const reader = new ZipReader(new BlobReader(new Blob([readFileSync(archive)])));
  for (const entry of await reader.getEntries()) {
    if (entry.directory) continue;
    const place = join(folder, entry.filename);
    mkdirSync(dirname(place), { recursive: true });
    writeFileSync(place, await entry.getData(new Uint8ArrayWriter()));
  }
}

test('a quick look names the build by next to no bytes, and the frame knows it', async ({ startAt }) => {
  const page = await startAt('arrived');
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

test('a folder goes out as a checksum list, and the list comes in as a folder of its own', async ({
  startAt,
}, info) => {
  const page = await startAt('surveyed');
  const [whole] = await page.getByText(/^\d[\d,]* files$/).allTextContents();
  await page.getByRole('button', { name: /^Export/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Whole folder as a checksum list' }).click();
  const file = info.outputPath('folder.sha256');
  await (await download).saveAs(file);
  const lines = readFileSync(file, 'utf8').trim().split('\n');
  expect(lines.filter((line) => /^[0-9a-f]{64} {2}\S/.test(line)).length).toBeGreaterThan(300);

  await page.getByRole('button', { name: /^Export/ }).click();
  const table = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: /shown, as CSV$/ }).click();
  const csv = info.outputPath('survey.csv');
  await (await table).saveAs(csv);
  const [head, ...rows] = readFileSync(csv, 'utf8').trim().split('\r\n');
  expect(head).toBe('path,state,bytes,depot,owner');
  expect(`${new Intl.NumberFormat('en').format(rows.length)} files`).toBe(whole);

  await page.getByRole('button', { name: /^Export/ }).click();
  const document = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Build 3.1.1, as Metalink' }).click();
  const metalink = info.outputPath('3.1.1.meta4');
  await (await document).saveAs(metalink);

  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await page.getByPlaceholder('Name of the folder').fill('As it should be');
  await page.locator('input[aria-label="Checksum list"]').setInputFiles(metalink);
  await expect(page.getByRole('link', { name: 'As it should be' })).toBeVisible();
  await expect(page.getByText(/^0changed$/)).toBeVisible();
  await expect(page.getByText(/^0missing$/)).toBeVisible();
  await expect(page.getByText(/^0stray$/)).toBeVisible();

  await page.getByRole('link', { name: 'As it should be', exact: true }).click();
  await page.getByPlaceholder('Name of the folder').fill('By its list');
  await page.locator('input[aria-label="Checksum list"]').setInputFiles(file);
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'By its list' })).toBeVisible();
  await expect(page.getByText(/^1changed$/)).toBeVisible();
  await open(page, 'Choose');
  await page
    .getByRole('navigation', { name: 'Stages' })
    .getByRole('link', { name: /^Assemble/ })
    .click();
  await expect(page.getByRole('heading', { name: 'folder.sha256 is read-only here' })).toBeVisible();
});

test('a folder is handed over, looked at, asked for again after a reload, and forgotten', async ({ startAt }, info) => {
  const page = await startAt('arrived');
  const folder = info.outputPath('old-copy');
  mkdirSync(`${folder}/tables`, { recursive: true });
  writeFileSync(`${folder}/tables/own.csv`, 'a,b\n1,2\n');
  writeFileSync(`${folder}/note.txt`, 'what is this');
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();

  await page.getByLabel('or paste it').fill(`${'0'.repeat(64)}  a\n${'0'.repeat(63)}  b\n`);
  await page.getByRole('button', { name: 'Read the pasted list' }).click();
  await expect(page.getByRole('alert')).toContainText('line 2');
  await page.getByLabel('or paste it').fill(`${'0'.repeat(32)}  a\n${'0'.repeat(40)}  b\n`);
  await page.getByRole('button', { name: 'Read the pasted list' }).click();
  await expect(page.getByRole('alert')).toContainText('sha-1');
  await expect(page.getByRole('region', { name: 'Folders: list' }).getByRole('link')).toHaveCount(1);

  await page.locator('input[aria-label="Folder to open once"]').setInputFiles(folder);
  await expect(page.getByRole('heading', { name: 'No known build' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Check every file in old-copy' }).click();
  await expect(page.getByText(/^2stray$/)).toBeVisible();
  await page.reload();
  const again = page.locator('input[aria-label="Open old-copy again"]');
  writeFileSync(`${folder}/another.txt`, 'and this');
  await again.setInputFiles(folder);
  await page.getByRole('button', { name: 'Check every file in old-copy' }).click();
  await expect(page.getByText(/^3stray$/)).toBeVisible();

  await page.getByRole('link', { name: 'old-copy', exact: true }).click();
  await page.getByRole('button', { name: 'Remove old-copy from the list' }).click();
  await page.getByRole('button', { name: 'Remove old-copy' }).click();
  await expect(page.getByRole('link', { name: 'Ferrywake', exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Folders: list' }).getByRole('link')).toHaveCount(1);
});

test('a served folder that was mended by hand is named for what it is', async ({ folderAt, startAt }, info) => {
  const folder = folderAt();
  mkdirSync(info.outputPath(), { recursive: true });
  // Data of 2.9.4, the small depot with the program forgotten, and a language that is not wanted.
  await writeDemoTree(info.outputPath(), folder, [
    ...['core', 'core-fixes', 'world-east', 'world-west', 'fine-textures', 'voices-de'].map(
      (depot): [string, string] => [depot, '2.9.4'],
    ),
    ['program', '3.1.1'],
  ]);
  const page = await startAt('arrived');
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await page.getByLabel('Access token (printed at start)').fill('guessed');
  await page.getByRole('button', { name: 'Show local folders' }).click();
  await expect(page.getByRole('alert')).toContainText('the token is not valid');
  await page.getByLabel('Access token (printed at start)').fill(SERVED_TOKEN);
  await page.getByRole('button', { name: 'Show local folders' }).click();
  await page.getByLabel('Subfolder').fill(info.testId);
  await page.getByRole('button', { name: `Add ${info.testId}` }).click();
  await expect(page.getByRole('heading', { name: 'Mixed builds' })).toBeVisible();
  await page.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
  await expect(page.getByText('Data of 2.9.4 under the program of 3.1.1')).toBeVisible();
  await expect(page.getByText(/files of voices-de lie where those of Voices, English belong/)).toBeVisible();
  await expect(page.getByText('Nothing of Winter Ice is there')).toBeVisible();
  await expect(page.getByText(/^[1-9][\d,]*missing$/)).toBeVisible();

  // Another start has another token: it is asked for where it is needed.
  await page.evaluate(() => sessionStorage.clear());
  await page.getByRole('button', { name: 'Take a quick look' }).click();
  await page.getByLabel('Access token (printed at start)').fill(SERVED_TOKEN);
  await page.getByRole('button', { name: 'Use this token' }).click();
  await page.getByRole('button', { name: 'Take a quick look' }).click();
  await expect(page.getByText(/^A quick look .* found mixed builds/)).toBeVisible();
});

test('the map is gone into by keys, the list follows, and an address shows the same again', async ({ startAt }) => {
  const page = await startAt('surveyed');
  const map = page.getByRole('group', { name: /by bytes/ });
  await map.getByRole('link', { name: /^archives:/ }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(map.getByRole('link', { name: /^archives:/ })).not.toBeFocused();
  await map.getByRole('link', { name: /^world:/ }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('navigation', { name: 'Folder that the map shows' })).toContainText('Ferrywake / world');
  await expect(page.getByRole('region', { name: 'Files' }).getByRole('link').first()).toContainText('world/east/');
  // Each click sorts by what the head says then, so the second has to wait for the first.
  await page.getByRole('button', { name: /^Size.*sort by it/ }).click();
  await page.getByRole('button', { name: /^Size.*sorted upward/ }).click();
  await expect(page.getByRole('button', { name: /^Size.*sorted downward/ })).toBeVisible();
  const first = page.getByRole('region', { name: 'Files' }).getByRole('link').first();
  const largest = await first.textContent();
  await first.click();
  await expect(page.getByText('SHA-256 on disk')).toBeVisible();
  await page.reload();
  await expect(page.getByText('SHA-256 on disk')).toBeVisible();
  expect(await first.textContent()).toBe(largest);
  await map.getByRole('link').first().focus();
  await page.keyboard.press('Backspace');
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
  await page.getByRole('link', { name: /^Left over from 2\.9\.4/ }).click();
  await expect(page.getByRole('region', { name: 'Files' }).getByRole('link')).toHaveCount(2);
});

test('a folder is looked at again without reading what did not change, compared, kept and recorded', async ({
  startAt,
}, info) => {
  const page = await startAt('surveyed');
  await page.getByRole('link', { name: 'Open Keepsakes' }).click();
  await page.getByRole('button', { name: 'Keep 10 files as they are now' }).click();
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download as an archive' }).click();
  const archive = info.outputPath('keepsake.zip');
  await (await saved).saveAs(archive);
  // Any reader of archives and the usual command know what to do with it.
  await unpack(archive, info.outputPath('bag'));
  const [bag] = readdirSync(info.outputPath('bag'));
  const checked = execFileSync('sha256sum', ['-c', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'], {
    cwd: info.outputPath('bag', bag!),
    encoding: 'utf8',
  });
  expect(checked.trim().split('\n')).toHaveLength(14);
  await open(page, 'Survey');

  // The files' times have to lie clearly before the reading for their digests to be trusted again.
  await putIntoFolder(page, 'player/settings.ini', '[player]\nname = Somebody\n');
  await page.getByRole('button', { name: 'Check changed files only' }).click();
  await expect(page.getByText(/\d not read again: same size and time/)).toBeVisible();
  await page.getByPlaceholder('Select a survey').click();
  await page.getByRole('option').first().click();
  await expect(page.getByRole('heading', { name: /^1 file changed/ })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Differences' })).toContainText('changedplayer/settings.ini');
  await page.getByRole('link', { name: 'Back to the map' }).click();

  await page.getByText('Record this folder as a build').click();
  await page.getByLabel('Label').fill('Night build');
  await page.getByLabel('Date').fill('2026-07-01');
  await page.getByLabel('Split it into depots').check();
  await page.getByLabel('Depot of world').fill('The seas');
  await expect(page.getByText(/^Left out: .*saves \(\d+ files\)/)).toBeVisible();
  await page.getByRole('button', { name: /^Record [\d,]+ files as Night build$/ }).click();
  await expect(page.getByText('Recorded. It is on the build line now.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Builds' }).getByText('Night build').first()).toBeVisible();
  const folder = page.url();
  await page.goto('/games/ferrywake');
  const source = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export as a source' }).click();
  const zip = new ZipReader(new BlobReader(new Blob([readFileSync(await (await source).path())])));
  expect((await zip.getEntries()).map(({ filename }) => filename).toSorted()).toEqual([
    'index.json',
    'manifests/Night_20build/the-seas.meta4',
    'manifests/Night_20build/whole-build.meta4',
  ]);
  await page.getByLabel('Date of Night build').fill('2025-01-01');
  await page.getByLabel('Date of Night build').blur();
  // Until it is moved nothing else can be asked for.
  await expect(page.getByRole('button', { name: 'Forget Night build' })).toBeEnabled();
  await page.reload();
  await expect(page.getByLabel('Date of Night build')).toHaveValue('2025-01-01');
  await page.getByRole('button', { name: 'Forget Night build' }).click();
  await expect(page.getByRole('region', { name: 'Recorded builds' })).toBeHidden();
  await page.goto(folder);
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
});

test('the checksums of a log are told for what they are, and an unknown one gets a label', async ({ startAt }) => {
  const page = await startAt('surveyed');
  const first = page.getByRole('region', { name: 'Files' }).getByRole('link').first();
  await first.click();
  const known = (await page.locator('code').first().textContent())!;
  await page.goto(page.url().replace(/survey.*/, 'log'));
  const unknown = 'c0ffee00'.repeat(8);
  await page
    .getByLabel('Log', { exact: true })
    .fill(`read ${known}\nunknown program "bin/ferrywake.prog": ${unknown}\nand ${unknown.slice(1)}\n`);
  await page.getByRole('button', { name: 'Find checksums' }).click();
  await expect(page.getByRole('cell', { name: /^archives\/.* of .*3\.1\.1/ })).toBeVisible();
  await expect(page.getByRole('alert')).toContainText('Line 3, column 5');
  await expect(page.getByLabel('Path for the checksum of line 2')).toHaveValue('bin/ferrywake.prog');
  await page.getByLabel(/^Label for the selected/).fill('3.1.1 of the disc');
  await page.getByRole('button', { name: 'Record 1 checksum as 3.1.1 of the disc' }).click();
  await expect(page.getByText('1 checksum recorded as 3.1.1 of the disc.')).toBeVisible();
  await page.getByRole('button', { name: 'Find checksums' }).click();
  await expect(
    page.getByRole('cell', { name: 'bin/ferrywake.prog of 3.1.1 of the disc, from pasted log' }),
  ).toBeVisible();
});

test('what is dropped anywhere is told for what it is', async ({ startAt }) => {
  const page = await startAt('arrived');
  await dropFile(page, 'letter.txt', 'Dear ferryhand, the tables are wrong again.');
  await expect(page.getByRole('dialog', { name: 'letter.txt is not a known kind of file' })).toBeVisible();
  await page.keyboard.press('Escape');

  await dropFile(page, 'loader.log', `unknown program "bin/ferrywake.prog": ${'c0ffee00'.repeat(8)}`);
  await page.getByRole('button', { name: 'Compare checksums' }).click();
  await expect(page.getByText('unknown', { exact: true })).toBeVisible();

  await dropFile(page, 'folder.sums', `${'c0ffee00'.repeat(8)}  ../outside.tab\n`);
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('alert')).toContainText('folder.sums, line 1');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await dropFile(page, 'folder.sums', `${'c0ffee00'.repeat(8)}  bin/ferrywake.prog\n`);
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('link', { name: 'folder.sums' })).toBeVisible();
});
