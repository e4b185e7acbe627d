import { existsSync, mkdirSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { choose, deleteKept, fetchAll, layDown, open, signIn } from './demo-way';
import { DEPOTS, digestsOf, writeDemoTree } from './demo-tree';
import { expect } from './expect';
import { SERVED_TOKEN } from './served-root';
import { test } from './start-at';

/** A mod puts its own file in place of the game's. */
const REPLACED = './textures/tx-050.tex';

test('a folder of this machine goes back to an older build and forward again, byte for byte', async ({
  folderAt,
  startAt,
}, info) => {
  const folder = folderAt();
  const wanted = folderAt('-wanted');
  mkdirSync(info.outputPath(), { recursive: true });
  const at = (build: string) => DEPOTS.map((depot): [string, string] => [depot, build]);
  await writeDemoTree(info.outputPath(), folder, at('3.1.1'));
  await writeDemoTree(info.outputPath(), wanted, at('2.9.4'));
  const before = digestsOf(folder);

  const page = await startAt('arrived');
  // As the start of the server prints it: nothing is pasted, and nothing of it stays in the address.
  await page.goto(`/#token=${SERVED_TOKEN}`);
  await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  expect(page.url()).not.toContain(SERVED_TOKEN);
  await page.getByLabel('Subfolder').fill(info.testId);
  await page.getByRole('button', { name: `Add ${info.testId}` }).click();
  await page.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
  await expect(page.getByRole('heading', { name: '3.1.1', exact: true })).toBeVisible();
  await expect(page.getByRole('heading', { name: 'This looks like' })).toBeHidden();

  await choose(page, '2.9.4');
  await signIn(page);
  await fetchAll(page);
  await layDown(page, '2.9.4');
  // Add-ons that are owned, and mods that are wanted, have come besides.
  const laid = digestsOf(folder);
  const lines = new Set(laid.split('\n'));
  expect(
    digestsOf(wanted)
      .split('\n')
      .filter((line) => !lines.has(line) && !line.endsWith(REPLACED)),
  ).toEqual([]);
  expect(existsSync(`${folder}/regressum-store/trees/t1`)).toBe(true);

  await page.getByRole('button', { name: 'Restore the previous folder' }).click();
  await expect(page.getByText('in place, byte for byte')).toBeHidden();
  await expect(() => expect(digestsOf(folder)).toBe(before)).toPass();
  await page.getByRole('button', { name: 'Restore the previous folder' }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  // Whoever was cut off in a change, be it another browser: every page says so, and leads on.
  const journal = `${folder}/regressum-store/journal`;
  const set = readdirSync(journal)[0]!;
  rmSync(`${journal}/${set}/${readdirSync(`${journal}/${set}`).sort().at(-2)!}`);
  await page.reload();
  await expect(page.getByText(/^The folder is between two states: “Laid down 2\.9\.4/)).toBeVisible();
  await expect(page.getByText('in place, byte for byte')).toBeHidden();
  await page.getByRole('link', { name: 'Continue it, or take it back' }).click();
  await page.getByRole('button', { name: 'Continue it' }).click();
  await expect(page.getByText(/^The folder is between two states/)).toBeHidden();
  await expect(page.getByRole('button', { name: 'Continue it' })).toBeHidden();
  await deleteKept(page);
  await expect(page.getByText('in effect, for good').first()).toBeVisible();
  expect(digestsOf(folder)).toBe(laid);
  expect(existsSync(`${folder}/regressum-store/trees/t1`)).toBe(false);

  // Another browser, which knows nothing of the folder, finds what was done and what is wanted in the folder's store.
  const second = await startAt('arrived');
  await second.goto(`/#token=${SERVED_TOKEN}`);
  await second.getByRole('link', { name: 'Ferrywake', exact: true }).click();
  await second.getByLabel('Subfolder').fill(info.testId);
  await second.getByRole('button', { name: `Add ${info.testId}` }).click();
  await expect(second.getByText('At the target build 2.9.4')).toBeVisible();
  await second.getByRole('link', { name: 'History', exact: true }).click();
  await expect(second.getByText('in effect, for good').first()).toBeVisible();
  await expect(second.getByRole('heading', { name: 'Laid down 2.9.4 over 3.1.1' })).toBeVisible();

  // One altered file is repaired in place: no other is touched.
  const [altered, other] = ['sounds', 'textures'].map(
    (name) =>
      `${folder}/${name}/${readdirSync(`${folder}/${name}`, { recursive: true, withFileTypes: true }).find((one) => one.isFile())!.name}`,
  );
  const times = statSync(other!).mtimeMs;
  writeFileSync(altered!, 'altered by hand');
  await open(page, 'Survey');
  await page.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
  await fetchAll(page);
  await open(page, 'Assemble');
  await page.getByRole('button', { name: 'Lay down 2.9.4 in place' }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  expect(digestsOf(folder)).toBe(laid);
  expect(statSync(other!).mtimeMs).toBe(times);

  // What is held is checked by every byte; of a storefront's record nothing is known here.
  await open(page, 'Hold');
  await page.getByRole('button', { name: /^Hold/ }).click();
  await expect(page.getByText('Held', { exact: true })).toBeVisible();
});
