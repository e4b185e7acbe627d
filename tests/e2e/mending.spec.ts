import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { digestsOf } from './demo-tree';
import { open, wantModsFound } from './demo-way';
import { expect } from './expect';
import { put } from './own-game';
import { test } from './start-at';

test('after a patch mods are mended one by one by the keyboard, undone, benched, left, and brought back in groups', async ({
  moddedFolder,
}) => {
  const { folder, page } = await moddedFolder({ more: (at) => put(join(at, 'grafts/damson.set'), 'sweet=1') });
  const has = (path: string): boolean => existsSync(join(folder, 'grafts', path));
  await wantModsFound(page, 5);
  const before = digestsOf(folder);

  await open(page, 'Mend');
  const list = page.getByRole('region', { name: 'Work list' });
  const row = (words: RegExp) => list.getByRole('link', { name: words });
  await expect(row(/^1 Trellis 1 → 2 stated next: update/)).toBeVisible();
  await expect(row(/^3 Quince 5 stated done/)).toBeVisible();
  await expect(row(/^2 Damson 1\.0 → 2\.0 stated update/)).toBeVisible();
  await expect(row(/Medlar 3 → out in doubt your choice/)).toBeVisible();
  await expect(row(/Sloe 1 → out broken take out/)).toBeVisible();

  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  // Where there is little room, the picture goes before the names do.
  await page.setViewportSize({ width: 1024, height: 768 });
  await expect(list.getByText('Trellis', { exact: true })).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
  // By the keyboard alone: the next step is found and taken; what needs another mod takes that along.
  await row(/^2 Damson/).click();
  await expect(page.getByText('Along with it: Trellis 1 → 2.')).toBeVisible();
  await page.keyboard.press('d');
  await expect.poll(() => has('damson/damson-2.0.graft') && has('trellis/trellis-2.graft')).toBe(true);
  expect(has('damson/damson-1.0.graft')).toBe(false);
  await expect(row(/^2 Damson 2\.0 stated done/)).toBeVisible();

  // It is undone alone, and taken again.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row(/^1 Trellis 1 → 2 stated next: update/)).toBeVisible();
  expect(digestsOf(folder)).toBe(before);
  await page.keyboard.press('n');
  await expect(page.getByRole('heading', { name: 'Trellis' })).toBeVisible();
  await page.keyboard.press('d');
  await expect(row(/^1 Trellis 2 stated done/)).toBeVisible();
  await page.keyboard.press('n');
  await expect(page.getByRole('heading', { name: 'Damson' })).toBeVisible();
  await page.keyboard.press('d');
  await expect(row(/^2 Damson 2\.0 stated done/)).toBeVisible();

  // What is in doubt is left as it is; what breaks is taken out with a reason.
  await row(/Medlar/).click();
  // What others say of it counts for as long as it is not taken back.
  await page.getByRole('button', { name: 'Note what was said…' }).click();
  await page.getByLabel('In their words').fill('Fine since the last harvest');
  await page.getByLabel('Address or place').fill('the orchard board, page 3');
  await page.getByRole('button', { name: 'Write it down' }).click();
  await expect(page.getByText(/somebody says: Fine since the last harvest/)).toBeVisible();
  await expect(row(/Medlar 3 → out likely your choice/)).toBeVisible();
  await page.getByRole('button', { name: 'Take back what was said of 3 on harvest 2' }).click();
  await expect(row(/Medlar 3 → out in doubt your choice/)).toBeVisible();
  await page.getByRole('button', { name: 'Leave 3 as it is' }).click();
  await expect(row(/Medlar 3 in doubt done/)).toBeVisible();
  await row(/Sloe/).click();
  await page.getByRole('button', { name: 'Take it out for now…' }).click();
  const form = page.getByRole('form', { name: 'Take Sloe out' });
  await form.getByLabel('Why').fill('It crashes at once');
  await form.getByLabel('Until').selectOption('it has a newer release');
  await form.getByRole('button', { name: 'Take it out' }).click();
  await expect.poll(() => has('sloe/sloe-1.graft')).toBe(false);
  await expect(page.getByText(/On the bench until it has a newer release.*It crashes at once/)).toBeVisible();
  await expect(page.getByText('harvest 2 is laid down with the mods that run on it.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Work list' }).getByRole('link')).toHaveCount(5);

  // What is seen to load is ticked, and counts from then on.
  await page.getByRole('button', { name: 'Check that mods load…' }).click();
  await page.getByLabel('Quince seen').check();
  await page.getByRole('button', { name: 'Keep 1 tick' }).click();
  await expect(row(/Quince 5 proven done/)).toBeVisible();

  // A few first, and the others back in a group.
  await page.getByLabel('Mods that come first').fill('1');
  await page.getByRole('button', { name: 'Only the first 1' }).click();
  await expect.poll(() => has('quince/quince-5.graft')).toBe(false);
  await expect(page.getByText('On the bench for now: 3 mods.')).toBeVisible();
  await page.getByRole('button', { name: /^Bring back the next/ }).click();
  await expect.poll(() => has('quince/quince-5.graft') && has('damson/damson-2.0.graft')).toBe(true);

  // What was done is a report; settings of a mod were never touched.
  const report = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save a report' }).click();
  const text = readFileSync(await (await report).path(), 'utf8');
  expect(text).toContain('Damson 1.0 → 2.0');
  expect(text).toContain('Sloe 1, until it has a newer release: It crashes at once');
  expect(readFileSync(join(folder, 'grafts/damson.set'), 'utf8')).toBe('sweet=1');
});
