import { existsSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { digestsOf } from './demo-tree';
import { open, wantModsFound } from './demo-way';
import { expect } from './expect';
import { put } from './own-game';
import { test } from './start-at';

test('what breaks a game is narrowed down start by start, survives a reload, and goes on the bench', async ({
  moddedFolder,
}) => {
  const { folder, page } = await moddedFolder({ more: (at) => put(join(at, 'grafts/pear.set'), 'sharp=1') });
  const has = (path: string): boolean => existsSync(join(folder, 'grafts', path));
  await wantModsFound(page, 5);
  const before = digestsOf(folder);
  await open(page, 'Mend');
  await page.getByRole('link', { name: 'Find what breaks it' }).click();
  await page.getByLabel('Something else, which I see while playing').check();
  await page.getByLabel('What is to be seen, and how to get there').fill('The trees do not grow');
  await page.getByRole('button', { name: 'Begin' }).click();
  const starts = page.getByRole('list', { name: 'Starts so far' }).getByRole('listitem');
  await expect(starts).toHaveCount(1);
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  // A log that is handed over is told line by line, with the step that mends it.
  await page.getByLabel('A log', { exact: true }).setInputFiles({
    name: 'orchard.log',
    mimeType: 'text/plain',
    buffer: Buffer.from(
      'trellis 1 starts\nMedlar: version mismatch, expected 4\ncannot open data/tree-4.bin\nall done\n',
    ),
  });
  const findings = page.getByRole('list', { name: 'Findings' }).getByRole('listitem');
  await expect(findings).toHaveCount(2);
  await expect(findings.first()).toContainText('2 Medlar: version mismatch, expected 4');
  await expect(findings.first().getByRole('link', { name: 'See the releases of Medlar' })).toBeVisible();
  await expect(findings.last()).toContainText('data/tree-4.bin of the game is missing or cannot be read.');

  // What a helper asks first is one text, which is looked over before it is handed on.
  await page.getByRole('button', { name: 'Make a help report…' }).click();
  const report = page.getByLabel('Report', { exact: true });
  await expect(report).toHaveValue(/# The trees do not grow[^]*Glass Orchard harvest 2[^]*Quince 5/);
  expect(await report.inputValue()).not.toContain(folder.split('/').at(-1));
  await page.keyboard.press('Escape');

  // The game fails with one of its mods: what lies in the folder at each start is what the page says.
  const change = page.getByRole('button', { name: /^Switch mods for start/ });
  const isOver = page.getByRole('button', { name: 'Put all back but Quince' });
  let asked = 0;
  for (; asked < 9; asked++) {
    const last = starts.nth(asked);
    await expect(last.or(isOver)).toBeVisible();
    if (await isOver.isVisible()) break;
    if (asked === 1) await page.reload();
    await expect(change.or(page.getByRole('button', { name: 'It fails' }))).toBeVisible();
    if (await change.isVisible()) await change.click();
    await page.getByRole('button', { name: 'It fails' }).waitFor();
    await expect(page.getByRole('button', { name: 'It fails' })).toBeEnabled();
    await page.getByRole('button', { name: has('quince/quince-5.graft') ? 'It fails' : 'It runs' }).click();
  }
  expect(asked).toBeLessThan(6);
  await expect(page.getByText(/^Quince breaks it\./)).toBeVisible();
  // An answer is taken back, and given again.
  await page.getByRole('button', { name: `Take the answer of start ${asked} back` }).click();
  await expect(starts).toHaveCount(asked);
  await change
    .or(page.getByRole('button', { name: 'It fails' }))
    .first()
    .waitFor();
  if (await change.isVisible()) await change.click();
  await expect(page.getByRole('button', { name: 'It fails' })).toBeEnabled();
  await page.getByRole('button', { name: has('quince/quince-5.graft') ? 'It fails' : 'It runs' }).click();

  // All others come back; what breaks it is out, with its reason.
  await isOver.click();
  await expect(page.getByRole('heading', { name: 'What breaks the game?' })).toBeVisible();
  await expect.poll(() => !has('quince/quince-5.graft') && has('damson/damson-1.0.graft')).toBe(true);
  await open(page, 'Mend');
  await page
    .getByRole('link', { name: /Quince/ })
    .first()
    .click();
  await expect(page.getByText(/On the bench until it has a newer release.*Breaks the game/)).toBeVisible();
  const kept = (digests: string): string[] => digests.split('\n').filter((line) => /data|profile|pear/.test(line));
  expect(kept(digestsOf(folder))).toEqual(kept(before));
});
