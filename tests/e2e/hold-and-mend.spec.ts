import { readFile } from 'node:fs/promises';
import {
  choose,
  closeStandIns,
  fetchAll,
  layDown,
  letStorefrontLook,
  open,
  openStandIns,
  setSwitch,
  signIn,
  startGame,
} from './demo-way';
import { writeDemoTree } from './demo-tree';
import { expect } from './expect';
import { SERVED_TOKEN } from './served-root';
import { test } from './start-at';

test('what is laid down is held against the storefront, drifts, is handed on, and goes on with the next patch', async ({
  folderAt,
  startAt,
}, info) => {
  const page = await startAt('surveyed');
  await choose(page, '2.9.4');
  await signIn(page);
  await fetchAll(page);
  await layDown(page, '2.9.4');

  await open(page, 'Hold');
  await page.getByRole('button', { name: /^Hold 2\.9\.4/ }).click();
  await expect(page.getByText('Nothing has drifted.')).toBeVisible();
  await letStorefrontLook(page, /keeps to the setting/);
  await setSwitch(page, 'Quayline ignores the update setting', true);
  await letStorefrontLook(page, /its record is locked: nothing was touched/);

  await page.getByRole('button', { name: 'Change a table in the folder' }).click();
  await expect(page.getByText(/Somebody appended a line to tables/)).toBeVisible();
  await closeStandIns(page);
  await page.getByRole('button', { name: /against the sheet$/ }).click();
  await expect(page.getByText('1 file drifted from the sheet.')).toBeVisible();
  await page.getByRole('button', { name: 'Put 1 file right' }).click();
  await expect(page.getByText('Nothing has drifted.')).toBeVisible();

  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download the sheet' }).click();
  const sheet = await readFile((await (await download).path())!, 'utf8');
  const other = await startAt('surveyed');
  await open(other, 'Hold');
  const file = { name: 'given.hold.json', mimeType: 'application/json' };
  const chooser = other.getByLabel('Hold sheet');
  await chooser.setInputFiles({ ...file, buffer: Buffer.from(sheet.replace('"version": 2', '"version": 9')) });
  await expect(other.getByText(/The hold sheet has version 9/)).toBeVisible();
  await chooser.setInputFiles({ ...file, buffer: Buffer.from(sheet.replace('"treeDigest": "', '"treeDigest": "x')) });
  await expect(other.getByText(/The field "treeDigest" is not valid.*line \d+/)).toBeVisible();
  const forged = sheet.replace(/"treeDigest": "[^"]+/, `"treeDigest": "${'0'.repeat(64)}`);
  await chooser.setInputFiles({ ...file, buffer: Buffer.from(forged) });
  await expect(other.getByText(/1 claim of the sheet is not true here/)).toBeVisible();
  await expect(other.getByText(/^The tree digest is .*, not 0+…0+\./)).toBeVisible();
  // Whatever else is tampered with is named as well, each by itself.
  const claims = JSON.parse(sheet) as {
    files: number;
    bytes: number;
    loadOrder: string[];
    game: { id: string; title: string };
    ownership: { language: string };
    depots: { id: string; files: number; manifestSha256: string }[];
    releases: { mod: string; release: string; files: number; digest: string }[];
  };
  const [depot, release] = [claims.depots[0]!, claims.releases[0]!];
  const tampered: readonly (readonly [object, RegExp])[] = [
    [{ files: claims.files + 1 }, /^The tree has [\d,]+ files, not/],
    [{ bytes: claims.bytes - 1 }, /^The tree has [\d,]+ bytes, not/],
    [{ loadOrder: claims.loadOrder.toReversed() }, /^The load order differs/],
    [{ game: { id: 'other', title: 'Other' } }, /^It is for another game: Other/],
    [{ build: '7.7.7' }, /^Build 7\.7\.7 is unknown here/],
    [{ ownership: { ...claims.ownership, language: 'xx' } }, /^No depot has the language/],
    [{ depots: claims.depots.slice(1) }, /^The depot .* is missing/],
    [{ depots: [{ ...depot, manifestSha256: '0'.repeat(64) }, ...claims.depots.slice(1)] }, /^The manifest digest of/],
    [{ depots: [{ ...depot, files: 1 }, ...claims.depots.slice(1)] }, /^The depot .* has [\d,]+ files, not 1/],
    [{ releases: [{ ...release, digest: '0'.repeat(64) }, ...claims.releases.slice(1)] }, /have the digest/],
  ];
  for (const [change, words] of tampered) {
    const buffer = Buffer.from(JSON.stringify({ ...claims, ...change }));
    await chooser.setInputFiles({ ...file, buffer });
    await expect(other.getByRole('alert').getByRole('listitem').filter({ hasText: words })).toBeVisible();
  }
  // What cannot be had is named, and the rest offered.
  const lacking = { ...claims, releases: [...claims.releases, { mod: 'gone', name: 'Gone', release: '3', files: 1 }] };
  await chooser.setInputFiles({ ...file, buffer: Buffer.from(JSON.stringify(lacking)) });
  await expect(other.getByRole('button', { name: /^Import the rest: 2\.9\.4 with 38 mods/ })).toBeVisible();
  // With its mods it is rebuilt on another kind of disk, in a folder that has little of it.
  await page.getByText('With what it speaks of').click();
  await page.getByLabel(/^Files of its mods: 38 releases/).check();
  const archived = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download them as an archive' }).click();
  const archive = info.outputPath('held.zip');
  await (await archived).saveAs(archive);
  const folder = folderAt();
  await writeDemoTree(info.outputPath(), folder, [['core', '3.1.1']]);
  await other.goto(`/ferrywake/folders#token=${SERVED_TOKEN}`);
  await other.getByLabel('Subfolder').first().fill(info.testId);
  await other.getByRole('button', { name: `Add ${info.testId}` }).click();
  await other.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
  await expect(other.getByText(/files, checked/).first()).toBeVisible();
  await open(other, 'Hold');
  await chooser.setInputFiles(archive);
  await expect(other.getByText('38 releases in it can be fetched from their own catalogue.')).toBeVisible();
  await other.getByRole('button', { name: 'Import its sheet: 2.9.4 with 38 mods' }).click();
  await expect(other.getByText('2.9.4 is now the target.')).toBeVisible();
  await signIn(other);
  await fetchAll(other);
  await open(other, 'Assemble');
  await other.getByRole('button', { name: /^Lay down 2\.9\.4/ }).click();
  await expect(other.getByText('in place, byte for byte')).toBeVisible();
  await open(other, 'Hold');
  const digest = (JSON.parse(sheet) as { treeDigest: string }).treeDigest;
  await expect(other.getByRole('article', { name: 'Hold sheet' }).locator(`code[title="${digest}"]`)).toBeVisible();
  await other.context().close();

  await page.getByRole('button', { name: /^Release the hold on 2\.9\.4/ }).click();
  await expect(page.getByText('Not held').first()).toBeVisible();
  await openStandIns(page);
  await page.getByRole('button', { name: 'Release 3.2.0 on main' }).click();
  await expect(page.getByRole('button', { name: '3.2.0 is out' })).toBeVisible();
  await letStorefrontLook(page, /Quayline updates the folder to 3\.2\.0/);
  await closeStandIns(page);
  await open(page, 'Survey');
  await expect(page.getByText(/Storefront update|The storefront updates to 3\.2\.0: done/)).toBeVisible();
  await page.getByRole('button', { name: /Check every file/ }).click();
  await expect(page.getByRole('heading', { name: '3.2.0' })).toBeVisible();

  await open(page, 'Mend');
  await page.getByRole('link', { name: /^1 Towline .* next: update/ }).click();
  await page.getByText('Why', { exact: true }).first().click();
  await expect(page.getByText('The author says it runs on 3.2.0.')).toBeVisible();
  const mods = /Fetch and lay down 3\.2\.0 with (\d+) mods/;
  const mend = page.getByRole('button', { name: mods });
  const expected = mods.exec((await mend.textContent())!)![1];
  await mend.click();
  await expect(page.getByText('3.2.0 is laid down with the mods that run on it.')).toBeVisible();
  await startGame(page);
  await expect(page.getByText(`Title screen of 3.2.0, ${expected} mods loaded`)).toBeVisible();
});

test('the storefront brings a build to which a branch of it leads, with a code where it needs one', async ({
  startAt,
}) => {
  const page = await startAt('surveyed');
  await choose(page, '2.9.4');
  await open(page, 'Fetch');
  const ways = page.getByRole('region', { name: 'Two ways' });
  await expect(ways).toContainText('Only while held: the main branch leads to 3.1.1');
  await ways.getByRole('button', { name: 'Switch from main to steady' }).click();
  await expect(ways).toContainText('The storefront’s record follows the steady branch.');
  await letStorefrontLook(page, /updates the folder to 2\.9\.4/);
  await closeStandIns(page);
  await expect(page.getByText(/The storefront updates to 2\.9\.4: done/)).toBeVisible();
  await expect(ways).toContainText('Until the steady branch moves on');
  await ways.getByRole('button', { name: 'Check what changed in the folder' }).click();
  await expect(page.getByRole('heading', { name: '2.9.4', exact: true })).toBeVisible();

  await choose(page, '3.2.0');
  await open(page, 'Fetch');
  await ways.getByLabel('Code of the trial branch').fill('guessed');
  await ways.getByRole('button', { name: 'Switch from steady to trial' }).click();
  await expect(ways).toContainText('The storefront’s record follows the trial branch.');
  await letStorefrontLook(page, /does not open this branch/);
  await closeStandIns(page);
  await page.getByRole('link', { name: 'History', exact: true }).click();
  await page.getByText('Switched to the trial branch from steady').first().click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByRole('button', { name: 'Make it again' })).toBeVisible();
  await open(page, 'Fetch');
  await ways.getByLabel('Code of the trial branch').fill('deep-water');
  await ways.getByRole('button', { name: 'Switch from steady to trial' }).click();
  await expect(ways).toContainText('The storefront’s record follows the trial branch.');
  await letStorefrontLook(page, /updates the folder to 3\.2\.0/);
});
