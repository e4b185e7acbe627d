import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { open } from './demo-way';
import { expect } from './expect';
import { fileSays, type OwnMods, put } from './own-game';
import { test } from './start-at';

const BARK = 'grafts/bark.tex';
const LIST = 'grafts/list.xml';
const MODS: OwnMods = {
  vine: [{ version: '2', builds: [1, 2], requires: [{ mod: 'fig' }] }],
  fig: [{ version: '1', builds: [1, 2], more: [BARK] }],
  plum: [{ version: '4', builds: [1, 2], more: [BARK] }],
};
const graft = (id: string): string => `  <graft id="${id}" grows="yes"/>\n`;
const listOf = (...lines: string[]): string => `<grafts>\n${lines.join('')}</grafts>\n`;
const NOTE = '  <!-- mine -->\n';

test('mods are put in order by keyboard, by dragging and by rules, and the list keeps what is not known', async ({
  moddedFolder,
}) => {
  const { folder, catalogue, page } = await moddedFolder({
    mods: MODS,
    more: (at) => put(join(at, LIST), listOf(graft('fig'), NOTE, graft('stranger'), graft('plum'), graft('vine'))),
  });
  const list = join(folder, LIST);
  const plumsBark = readFileSync(join(folder, BARK));
  await page.keyboard.press('o');
  const rows = page.getByRole('region', { name: 'Mods in load order' }).getByRole('link');
  const row = (name: string) => rows.filter({ hasText: new RegExp(`^\\d${name}`) });
  await expect(rows).toHaveText([/^1Fig 1/, /^2Plum 4/, /^3Vine 2/]);
  await expect(page.getByText('grafts/list.xml has this order.')).toBeVisible();
  await expect(page.getByText(/1 entry of the list is of no known mod and stays where it is: stranger/)).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  // A mod that nobody knows, and one that is known, lie one folder too deep: a click moves each.
  const deep = join(folder, 'grafts/Elder 1/elder');
  put(join(deep, 'elder.graft'), 'one more graft');
  put(join(folder, 'grafts/plum/plum/plum-4.graft'), readFileSync(join(folder, 'grafts/plum/plum-4.graft')));
  rmSync(join(folder, 'grafts/plum/plum-4.graft'));
  await open(page, 'Survey');
  await page.getByRole('button', { name: 'Check changed files only' }).click();
  await expect(
    page.getByText(/^Plum lies in the wrong place: 1 file, grafts\/plum\/plum → grafts\/plum/),
  ).toBeVisible();
  await expect(page.getByText(/^elder lies in the wrong place/)).toBeVisible();
  await page.getByRole('button', { name: 'Move Plum there' }).click();
  await expect.poll(() => existsSync(join(folder, 'grafts/plum/plum-4.graft'))).toBe(true);
  await page.getByRole('button', { name: 'Move elder there' }).click();
  await expect.poll(() => existsSync(join(folder, 'grafts/elder/elder.graft'))).toBe(true);
  await expect(page.getByRole('button', { name: /^Move .* there$/ })).toBeHidden();
  await page.keyboard.press('o');

  // By the keyboard: who has the file that two mods bring is seen at once.
  await row('Plum').click();
  const files = page.getByRole('row', { name: new RegExp(BARK) });
  await expect(files).toContainText('this mod’s');
  await page.keyboard.press('Alt+ArrowUp');
  await expect(rows).toHaveText([/^1Plum 4.*/, /^2Fig 1.*covers 1 file of Plum/, /^3Vine 2/]);
  await expect(files).toContainText('Fig');
  await page.getByRole('button', { name: 'Write this order into the list' }).click();
  await fileSays(list, listOf(NOTE, graft('stranger'), graft('plum'), graft('fig'), graft('vine')));
  expect(readFileSync(join(folder, BARK))).not.toEqual(plumsBark);
  await expect(page.getByText('grafts/list.xml has this order.')).toBeVisible();

  // By dragging; what another mod needs stays before it.
  const to = (await row('Plum').boundingBox())!;
  await row('Vine').hover();
  await page.mouse.down();
  await page.mouse.move(to.x + 60, to.y + 12, { steps: 4 });
  await page.mouse.move(to.x + 60, to.y + 4, { steps: 2 });
  await expect(page.locator('[data-edge="top"]')).toBeVisible();
  await page.mouse.up();
  await expect(page.getByText('Not moved that far: Vine needs Fig before it.')).toBeVisible();
  await expect(rows).toHaveText([/^1Fig/, /^2Vine/, /^3Plum/]);

  // By rules; one that contradicts what counts more is named with what it contradicts.
  await row('Vine').click();
  for (const [goes, other] of [
    ['before another mod', 'Fig'],
    ['after another mod', 'Plum'],
  ] as const) {
    await page.getByRole('button', { name: 'Add a rule…' }).click();
    await page.getByLabel('Vine is loaded').selectOption(goes);
    await page.getByLabel('Other mod').selectOption(other);
    await page.getByRole('button', { name: 'Add the rule' }).click();
  }
  await expect(page.getByText(/Fig comes before Vine by what counts more/)).toBeVisible();
  await expect(rows).toHaveText([/^1Fig/, /^2Plum/, /^3Vine/]);
  await page.getByRole('button', { name: 'Take back Vine before Fig' }).click();
  await expect(page.getByText(/by what counts more/)).toBeHidden();
  await page.getByRole('button', { name: 'Write this order into the list' }).click();
  const written = listOf(NOTE, graft('stranger'), graft('fig'), graft('plum'), graft('vine'));
  await fileSays(list, written);
  expect(readFileSync(join(folder, BARK))).toEqual(plumsBark);

  // The list is handed on, and reads in again.
  await page.goto(`${new URL(page.url()).pathname.replace('order', 'mods')}`);
  await page.getByRole('button', { name: 'Add 3 mods found there' }).click();
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'List as Markdown' }).click();
  const text = readFileSync(await (await saved).path(), 'utf8');
  expect(text).toContain(`| Fig | 1 | harvest 2 | want | ${catalogue} |`);
  await page.getByLabel('or paste it').fill(text.replace('| Plum | 4', '| Plum | 5').replace('| want', '| must have'));
  await page.getByRole('button', { name: 'Read the pasted table' }).click();
  await expect(page.getByText('Of 1 mod the release is not known: another one is chosen.')).toBeVisible();
  await page.getByRole('button', { name: 'Add 3 mods' }).click();
  await expect(page.getByText('3 mods of pasted table added to your mods.')).toBeVisible();
  await expect(page.getByRole('link', { name: 'Fig must' })).toBeVisible();

  // What an update has emptied is put back to the byte.
  writeFileSync(list, '<grafts>\n</grafts>\n');
  await open(page, 'Survey');
  const checkedAt = page.getByText(/^checked /).locator('time');
  const before = await checkedAt.getAttribute('datetime');
  await page.getByRole('button', { name: 'Check changed files only' }).click();
  await expect(checkedAt).not.toHaveAttribute('datetime', before!);
  await page.keyboard.press('o');
  await expect(page.getByText(/The list was emptied/)).toBeVisible();
  await page.getByRole('button', { name: 'Write this order into the list' }).click();
  await fileSays(list, written);
});
