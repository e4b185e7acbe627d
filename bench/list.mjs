import { join } from 'node:path';
import { end, openPage, put, sha256, startServer, tell, workFolder } from './kit.mjs';

/*
 * node bench/list.mjs [FILES | LIST]
 * How soon Survey answers with a large folder: a checksum list of FILES (100,000) files, or LIST, is brought in; then its
 * list is filtered, sorted and scrolled, and its map is gone into. Milliseconds from an input to the next frame that shows
 * what it did, the worst of each kind, beside the same on the demo's folder, which is the reference. Needs a build. Prints
 * one line of JSON.
 */
const PORT = 4187;
const [argument = '100000'] = process.argv.slice(2);
const work = workFolder('list');

function makeList(count) {
  const lines = Array.from({ length: count }, (_, i) => {
    const path = `area-${i % 37}/set-${Math.floor(i / 37) % 53}/part-${Math.floor(i / 1961)}/file-${i}.dat`;
    return `${sha256(String(i))}  ${path}\n`;
  });
  put(join(work, 'many.sha256'), lines.join(''));
  return join(work, 'many.sha256');
}

/** Does something, and answers with the milliseconds until a frame after it was drawn in which `done` holds. */
async function answered(page, act, done) {
  await page.evaluate((source) => {
    const isDone = new Function(`return (${source})()`);
    window.answered = new Promise((resolve) => {
      const begin = () => {
        const start = performance.now();
        const look = () =>
          isDone() ? requestAnimationFrame(() => resolve(performance.now() - start)) : requestAnimationFrame(look);
        look();
      };
      for (const type of ['click', 'input', 'wheel', 'keydown'])
        addEventListener(type, begin, { capture: true, once: true });
    });
  }, String(done));
  await act();
  return page.evaluate(() => window.answered);
}

/** @param folders to go into, one in another */
async function interactions(page, folders) {
  const rows = page.getByRole('region', { name: 'Files' });
  await rows.waitFor();
  await page.waitForTimeout(1000);
  const worst = {};
  const take = async (kind, act, done) => (worst[kind] = Math.max(worst[kind] ?? 0, await answered(page, act, done)));
  const filter = page.getByLabel('Filter by path');
  await filter.click();
  for (const letter of 'file-1')
    await take(
      'type',
      () => page.keyboard.type(letter),
      () => true,
    );
  await page.waitForTimeout(500);
  await filter.fill('');
  await page.waitForTimeout(500);
  for (const title of ['Size', 'Size', 'State', 'Path']) {
    const heads = `document.querySelector('[aria-label="Columns"]').textContent`;
    await page.evaluate(`window.heads = ${heads}`);
    const click = () => page.getByRole('button', { name: new RegExp(`^${title}`) }).click();
    await take('sort', click, `() => ${heads} !== window.heads`);
    await page.waitForTimeout(300);
  }
  const box = await rows.boundingBox();
  await page.mouse.move(box.x + 50, box.y + 50);
  for (let i = 0; i < 8; i++) {
    await take(
      'scroll',
      () => page.mouse.wheel(0, 4000),
      () => true,
    );
    await page.waitForTimeout(100);
  }
  for (const [depth, name] of folders.entries()) {
    const area = page.getByRole('group', { name: /by bytes/ }).getByRole('link', { name: new RegExp(`^${name}:`) });
    const shown = `() => document.querySelectorAll('nav[aria-label="Folder that the map shows"] a').length === ${depth + 1}`;
    await take('go into the map', () => area.focus().then(() => page.keyboard.press('Enter')), shown);
    await page.waitForTimeout(300);
  }
  return worst;
}

const list = /^\d+$/.test(argument) ? makeList(Number(argument)) : argument;
await startServer(PORT);
const page = await openPage();
await page.goto(`http://127.0.0.1:${PORT}/`);
await page.getByRole('button', { name: /Check every file/ }).click();
const small = await interactions(page, ['world', 'east']);
await page.getByRole('link', { name: 'Ferrywake', exact: true }).first().click();
await page.locator('input[aria-label="Checksum list"]').setInputFiles(list);
await page.waitForURL((url) => !url.pathname.startsWith('/ferrywake'));
const large = await interactions(page, ['area-0', 'set-0']);
const round = (numbers) => Object.fromEntries(Object.entries(numbers).map(([name, ms]) => [name, Math.round(ms)]));
tell({
  bench: 'list',
  what: 'ms from an input to what it shows',
  list: argument,
  large: round(large),
  demo: round(small),
});
end();
