import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { choose, open } from './demo-way';
import { expect } from './expect';
import { addOwnFolder, bringGame, put, sameFile, writeOwnFolder } from './own-game';
import { test } from './start-at';

/** Bytes that nothing makes smaller, the same for the same word. */
const noise = (word: string, length: number): Buffer =>
  Buffer.concat(
    Array.from({ length: Math.ceil(length / 64) }, (_, i) => createHash('sha512').update(`${word} ${i}`).digest()),
  ).subarray(0, length);

/** A map into which each build puts something at its beginning: no piece of it is where it was. */
const mapAt = (build: number): Buffer => Buffer.concat([noise(`start ${build}`, 900 * build), noise('map', 2_400_000)]);

const UNITS: Readonly<Record<string, number>> = { B: 1, kB: 1e3, MB: 1e6 };
function bytesIn(text: string | null | undefined): number {
  const [, number, unit] = /([\d.]+) (B|kB|MB)/.exec(text ?? '') ?? [];
  return Number(number) * UNITS[unit!]!;
}

test('what differs comes by frames as planned, what was altered under them too, and other folders save the wire', async ({
  folderAt,
  ownSource,
  startAt,
}, info) => {
  const [folder, second] = [folderAt(), folderAt('-second')];
  const add = (at: string, build: number): void => put(join(at, 'data/map.bin'), mapAt(build));
  const { work, address, asked } = await ownSource({ add });
  for (const at of [folder, second]) {
    writeOwnFolder(at, 1);
    add(at, 1);
  }
  // A mod has put its own in place of what frames build on.
  put(join(folder, 'data/tree-0.bin'), noise('altered', 30_000));
  const page = await startAt('new');
  await bringGame(page, address);
  await addOwnFolder(page, info.testId, 'harvest 1');
  await choose(page, 'harvest 2');
  await open(page, 'Fetch');
  const plan = page.getByRole('region', { name: 'Fetch: what is selected' });
  await expect(plan).toContainText('Of that rebuilt from old data');
  const planned = bytesIn(await plan.getByRole('heading', { level: 2 }).textContent());
  expect(planned).toBeLessThan(200_000);
  await page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ }).click();
  await expect(page.getByText(/Everything for harvest 2 .* is on this disk/)).toBeVisible();
  await page.getByText('Rate', { exact: false }).first().click();
  const came = bytesIn(await page.getByText(/on the wire in \d+ requests?/).textContent());
  expect(Math.abs(came - planned) / planned).toBeLessThan(0.02);
  const orchard = asked.filter((path) => path.includes('/orchard'));
  expect(orchard).toContain('/files/harvest_201/orchard/data/tree-0.bin');
  // One file was asked for its first byte, to see whether the source gives parts.
  const byThemselves = new Set(orchard.filter((path) => path.startsWith('/files/harvest_202/')));
  expect(byThemselves.size).toBeLessThan(2);
  await open(page, 'Assemble');
  await page.getByRole('button', { name: /^Lay down harvest 2/ }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  for (const path of ['data/map.bin', 'data/tree-0.bin', 'data/all trees.bin'])
    expect(sameFile(join(folder, path), join(work, 'orchard-2', path)), path).toBe(true);
  await open(page, 'Survey');
  await page.getByRole('button', { name: /^Check every file/ }).click();
  await expect(page.getByRole('heading', { name: 'harvest 2', exact: true })).toBeVisible();

  // The second folder takes all of it from the first.
  await page.getByTitle('All folders; add another').click();
  await addOwnFolder(page, `${info.testId}-second`, 'harvest 1');
  await choose(page, 'harvest 2');
  asked.length = 0;
  await open(page, 'Fetch');
  await expect(plan).toContainText('In your other folders');
  await page.getByRole('button', { name: /^Take [\d.]+ .B from your other folders/ }).click();
  await expect(page.getByText(/Everything for harvest 2 .* is on this disk/)).toBeVisible();
  expect(asked.filter((path) => /^\/(files|bundles)\//.test(path))).toEqual([]);
});
