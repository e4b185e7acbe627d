import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { rar, sevenZip } from '../../core/testing/packed-archives';
import { digestsOf } from './demo-tree';
import { dropFile, open } from './demo-way';
import { expect } from './expect';
import { addOwnFolder, bringGame, fileSays, put, writeOwnFolder } from './own-game';
import { test } from './start-at';

const words = (text: string): Buffer => Buffer.from(text);

test('archives of mods are read, placed, asked about, kept on the shelf, laid down and taken back', async ({
  folderAt,
  ownSource,
  startAt,
}, info) => {
  const folder = folderAt();
  const { work, address } = await ownSource();
  writeOwnFolder(folder, 1);
  const zip = (name: string): string => {
    execFileSync('zip', ['-qr', join(work, name), '.'], { cwd: join(work, name.replace('.zip', '')) });
    return join(work, name);
  };
  const file = (name: string, bytes: Uint8Array): string => (writeFileSync(join(work, name), bytes), join(work, name));
  const page = await startAt('new');
  await bringGame(page, address);
  await addOwnFolder(page, info.testId, 'harvest 1');
  const before = digestsOf(folder);

  // One with the folder of mods in it; one that replaces a file of the game; one of which one of two is to be chosen; a hostile one.
  put(join(work, 'Plum-v1.2/a wrapper/grafts/plum/plum.graft'), 'plum');
  put(join(work, 'Plum-v1.2/readme.txt'), 'read me');
  put(join(work, 'hostile/x.graft'), 'x');
  symlinkSync('/etc/passwd', join(work, 'hostile/link'));
  const archives = [
    zip('Plum-v1.2.zip'),
    file(
      'Tall trees 2.0.7z',
      sevenZip([
        ['data/tree-1.bin', words('a taller tree')],
        ['about.md', words('it is tall')],
      ]),
    ),
    file(
      'Quince.rar',
      rar([
        ['low/quince.dat', words('low')],
        ['high/quince.dat', words('high')],
      ]),
    ),
    (execFileSync('tar', ['-cf', join(work, 'hostile.tar'), '-C', join(work, 'hostile'), '.']),
    join(work, 'hostile.tar')),
  ];
  await page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByLabel('Archives of mods').first().setInputFiles(archives);
  await expect(page.getByText('3 archives read')).toBeVisible();
  await expect(page.getByRole('alert')).toContainText('"link" in hostile.tar is a link or a device');

  const plum = page.getByRole('article', { name: 'Plum' });
  await expect(plum.getByLabel('Release')).toHaveValue('1.2');
  await expect(plum.getByRole('checkbox')).toBeChecked();
  const trees = page.getByRole('article', { name: 'Tall trees' });
  await expect(trees.getByText('It replaces 1 file of the game')).toBeVisible();
  const quince = page.getByRole('article', { name: 'Quince' });
  await expect(quince.getByText('Nothing of it is taken yet')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Put 2 releases on the shelf' })).toBeEnabled();

  // Both of two with one place is refused, one of them is taken; it wants a release and a place.
  for (const i of [0, 1]) {
    await quince.getByRole('checkbox').nth(i).check();
    await quince.getByLabel('Goes into').nth(i).fill('grafts/quince');
  }
  await quince.getByLabel('Release').fill('1');
  await expect(quince.getByText(/have a file at grafts\/quince\/quince\.dat: take one of them/)).toBeVisible();
  await quince.getByRole('checkbox').nth(1).uncheck();
  await page.getByRole('button', { name: 'Put 3 releases on the shelf' }).click();
  await expect(page.getByText(/^3 releases put on the shelf\./)).toBeVisible();
  expect(digestsOf(folder)).toBe(before);
  for (const name of ['Plum', 'Tall trees', 'Quince'])
    await expect(page.getByRole('link', { name: new RegExp(`^${name}`) })).toBeVisible();

  // They are part of what is laid down next, and go with that again.
  await open(page, 'Choose');
  await page.getByRole('button', { name: 'Select build harvest 1' }).click();
  await open(page, 'Assemble');
  await page.getByRole('radiogroup').getByText('In place').click();
  await page.getByRole('button', { name: /^Lay down harvest 1/ }).click();
  await expect.poll(() => existsSync(join(folder, 'grafts/plum/plum.graft'))).toBe(true);
  await fileSays(join(folder, 'data/tree-1.bin'), 'a taller tree');
  expect(['low', 'high']).toContain(readFileSync(join(folder, 'grafts/quince/quince.dat'), 'utf8'));
  expect(existsSync(join(folder, 'readme.txt'))).toBe(false);
  await page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true }).click();
  await expect(page.getByText('in the folder').first()).toBeVisible();
  await page.getByRole('banner').getByRole('link', { name: 'History', exact: true }).click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect.poll(() => digestsOf(folder)).toBe(before);

  // The same again is known by its bytes; it comes by being dropped anywhere, too.
  await dropFile(page, 'Plum again.zip', readFileSync(join(work, 'Plum-v1.2.zip')));
  await page.getByRole('dialog').getByRole('button', { name: 'Look for mods in it' }).click();
  await expect(page.getByText(/^Known by the bytes of 1 file/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  // A release is frozen and thawed, and has a note; what nobody else has is not offered to go.
  await page.getByRole('link', { name: /^Plum/ }).click();
  await page.getByRole('button', { name: 'Freeze at 1.2' }).click();
  await page.getByLabel('Your note').fill('Best with rain off');
  await page.getByRole('button', { name: 'Keep the note' }).click();
  await expect(page.getByRole('link', { name: /^With your note 1/ })).toBeVisible();
  await page.getByRole('link', { name: /^Frozen 1/ }).click();
  await expect(page.getByRole('region', { name: 'Releases on the shelf' }).getByRole('link')).toHaveCount(1);
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  await page.getByRole('button', { name: 'Thaw' }).click();
  await expect(page.getByRole('button', { name: 'Freeze at 1.2' })).toBeVisible();
  await page.getByRole('link', { name: /^All releases/ }).click();
  await expect(page.getByRole('link', { name: /^Can go/ })).toBeHidden();
  await page.getByRole('button', { name: /^Take it off the shelf/ }).click();
  await expect(page.getByRole('link', { name: /^Plum/ })).toBeHidden();
});

test('mods that another program keeps up to date elsewhere are compared, taken over, left as they are, and frozen', async ({
  moddedFolder,
  folderAt,
}, info) => {
  const kept = folderAt('-kept');
  const says = (version: string): string => JSON.stringify({ id: 'pear', name: 'Pear', version });
  put(join(kept, '101/pear.graft'), 'pear one');
  put(join(kept, '101/mod.json'), says('1.0'));
  put(join(kept, '102/plum.graft'), 'plum');
  const { folder, page } = await moddedFolder({ more: () => undefined });
  const before = digestsOf(folder);
  await page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByText('Follow a folder of mods').click();
  await page.getByLabel('Subfolder').fill(`${info.testId}-kept`);
  await page.getByRole('button', { name: `Follow ${info.testId}-kept` }).click();
  const followed = page.getByRole('region', { name: /^Followed/ });
  await expect(followed.getByText(/^not looked at yet/)).toHaveCount(2);

  // One is taken, of the other nothing is wanted.
  await followed.getByRole('button', { name: 'Leave it out' }).nth(1).click();
  await expect(followed.getByText('left out')).toBeVisible();
  await followed.getByRole('button', { name: 'Read 1 mod there' }).click();
  const pear = page.getByRole('article', { name: 'Pear' });
  await expect(pear.getByLabel('Release')).toHaveValue('1.0');
  await page.getByRole('button', { name: 'Put 1 release on the shelf' }).click();
  await expect(followed.getByText('1.0, as it was taken')).toBeVisible();
  expect(digestsOf(folder)).toBe(before);
  await expect(page.getByRole('link', { name: /^Pear 1\.0/ })).toBeVisible();

  // The other program has brought an update: it is told wherever one is, and the copy stays what it was.
  put(join(kept, '101/pear.graft'), 'pear two, and better');
  await page.reload();
  await expect(page.getByRole('banner').getByRole('link', { name: /^Shelf 1/ })).toBeVisible();
  await expect(followed.getByText('changed since 1.0 was taken')).toBeVisible();
  await followed.getByRole('button', { name: 'Stay at 1.0' }).click();
  await expect(followed.getByText('changed since; you stay at 1.0')).toBeVisible();
  await expect(page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true })).toBeVisible();

  // The next one is taken over; it says the same number, so that its day tells it apart.
  put(join(kept, '101/pear.graft'), 'pear three, the best of all');
  await page.reload();
  await followed.getByRole('button', { name: 'Read 1 mod there' }).click();
  await expect(pear.getByText(/release of Pear, which is known/)).toBeVisible();
  await expect(pear.getByLabel('Release')).toHaveValue(/^1\.0 of \d{4}-\d\d-\d\d$/);
  await pear.getByLabel('Release').fill('1.1');
  await page.getByRole('button', { name: 'Put 1 release on the shelf' }).click();
  await expect(followed.getByText('1.1, as it was taken')).toBeVisible();
  await expect(page.getByRole('link', { name: /^Pear 1\.0/ })).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  // Frozen, it is left in peace.
  await page.getByRole('link', { name: /^Pear 1\.1/ }).click();
  await page.getByRole('button', { name: 'Freeze at 1.1' }).click();
  await expect(page.getByRole('button', { name: 'Thaw' })).toBeVisible();
  put(join(kept, '101/pear.graft'), 'pear four');
  await page.reload();
  await expect(followed.getByText('changed; yours is frozen at 1.1')).toBeVisible();
  await expect(page.getByRole('banner').getByRole('link', { name: 'Shelf', exact: true })).toBeVisible();

  // What was taken goes into the folder as any other mod.
  await open(page, 'Choose');
  await page.getByRole('button', { name: 'Select build harvest 2' }).click();
  await open(page, 'Assemble');
  await page.getByRole('radiogroup').getByText('In place').click();
  await page.getByRole('button', { name: /^Lay down harvest 2/ }).click();
  await expect
    .poll(() => existsSync(join(folder, 'grafts/pear/pear.graft')) && existsSync(join(folder, 'grafts/pear/mod.json')))
    .toBe(true);
  await fileSays(join(folder, 'grafts/pear/pear.graft'), 'pear three, the best of all');
});
