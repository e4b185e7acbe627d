import { join } from 'node:path';
import { end, tell, workFolder } from './kit.mjs';
import { makeModdedGame, openModdedGame } from './own-game.mjs';
import { answered, longestTask, told } from './page-times.mjs';

/*
 * node bench/many-mods.mjs [MODS] [FILES] [PICTURES]
 * How the work list, the load order and the shelf behave with MODS (300) mods of FILES (3,000) files in all, after a patch: the longest
 * task of the page's thread while each is scrolled, the milliseconds from a click on a mod until its step's preview, its place in the
 * order, or its release shows; beside the same with 12 mods, which is the reference and the fewest that lists can be measured with.
 * Pictures go into the folder PICTURES. Works in TMPDIR, needs a build and Chromium. Prints one line of JSON.
 */
const FEWEST = 12;
const [mods = '300', files = '3000', pictures] = process.argv.slice(2);
if (!(Number(mods) >= FEWEST)) throw new Error(`MODS has to be ${FEWEST} or more, not ${mods}`);
const PORT = 4196;

async function scrolled(page, region) {
  const box = await page.getByRole('region', { name: region }).first().boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + 100);
  return longestTask(page, async () => {
    for (let i = 0; i < 40; i++) {
      await page.mouse.wheel(0, i < 20 ? 400 : -400);
      await page.waitForTimeout(25);
    }
  });
}

/** Clicks on some rows of a list, each of which shows its mod's name as a heading of the page's right side. */
async function clicked(page, region) {
  const links = page.getByRole('region', { name: region }).first().getByRole('link');
  const times = [];
  for (let i = 1; i < 7; i++) {
    const link = links.nth(i);
    const name = /Mod \d+a/.exec(await link.textContent())[0];
    const shown = `[...document.querySelectorAll('h2')].some((one) => one.textContent.startsWith('${name}'))`;
    times.push(await answered(page, () => link.click(), shown));
    await page.waitForTimeout(300);
  }
  return told(times);
}

async function measure(count, fileCount, port, shots) {
  const work = workFolder('many');
  const shot = (name, page) => shots && page.screenshot({ path: join(shots, `${name}-${count}.png`) });
  makeModdedGame(work, { mods: count, files: fileCount, builds: 2 });
  const { page, home } = await openModdedGame(work, port);
  const settled = (list) => page.getByRole('region', { name: list }).first().getByRole('link').nth(3).waitFor();
  await page.goto(`${home}/mods`);
  await page.getByRole('button', { name: /^Add \d+ mods found there/ }).click();
  await page.getByText(/mods of the folder added to your mods/).waitFor();
  const lists = {};
  for (const [path, list] of [
    ['mend', 'Work list'],
    ['order', 'Mods in load order'],
    ['shelf', 'Releases on the shelf'],
  ]) {
    await page.goto(`${home}/${path}`);
    if (path === 'shelf') await shelveAll(page, home);
    await settled(list);
    await page.waitForTimeout(1500);
    const longestTaskScrolling = Math.round(await scrolled(page, list));
    lists[path] = { longestTaskScrolling, click: await clicked(page, list) };
    await shot(path, page);
  }
  return lists;
}

/** Has Mend start with a few mods, by which all others go onto the shelf. */
async function shelveAll(page, home) {
  await page.goto(`${home}/mend`);
  await page.getByLabel('Mods that come first').fill('1');
  await page.getByRole('button', { name: /^Only the first/ }).click();
  await page.getByText(/On the bench for now/).waitFor({ timeout: 300_000 });
  await page.goto(`${home}/shelf`);
}

const large = await measure(Number(mods), Number(files), PORT, pictures);
const small = await measure(FEWEST, 10 * FEWEST, PORT + 1, undefined);
tell({
  ...{ bench: 'many-mods', what: 'milliseconds; 0 is a task below 50' },
  ...{ mods: Number(mods), files: Number(files), large, small },
});
end();
