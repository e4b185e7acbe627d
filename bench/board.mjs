import { end, load, openPage, startServer, tell, workFolder } from './kit.mjs';
import { answered, longestTask, told } from './page-times.mjs';

/*
 * node bench/board.mjs [QUESTION.json] [PICTURE.png]
 * How the board behaves with 300 mods of 1,500 releases over 60 builds, or with a question of the caller's own: the worst
 * task of the page's thread while it is scrolled down and sideways, and the milliseconds until a click on a mod and on a
 * build shows, and until the build line shows a changed weight; beside the same on the demo's 38 mods and 9 builds, which
 * is the reference. Needs a build. Prints one line of JSON.
 */
const PORT = 4188;
const [question, picture] = process.argv.slice(2);
const { makeQuestion, readQuestion, LARGE } = await load(workFolder('board'), 'bench/choose-node.ts');

/** The service's index with other builds, all made of the files of one of its own. */
function indexWith(index, builds) {
  const last = index.branches.find(({ name }) => name === 'main').build;
  const like = index.manifests.filter(({ build }) => build === last);
  return {
    ...index,
    builds: builds.map((label, i) => ({
      label,
      date: new Date(Date.UTC(2022, 0, 1 + 14 * i)).toISOString().slice(0, 10),
    })),
    branches: [{ name: 'main', build: builds.at(-1), needsCode: false }],
    manifests: builds.flatMap((build) => like.map((manifest) => ({ ...manifest, build }))),
  };
}

/** Writes what the person wants into the page's store, as the program itself would. */
const want = (page, weights) =>
  page.evaluate(async (wanted) => {
    const open = indexedDB.open('regressum');
    await new Promise((resolve) => (open.onsuccess = resolve));
    const store = open.result.transaction('installs', 'readwrite').objectStore('installs');
    const all = store.getAll();
    await new Promise((resolve) => (all.onsuccess = resolve));
    for (const install of all.result) store.put({ ...install, weights: wanted });
    await new Promise((resolve) => (store.transaction.oncomplete = resolve));
    open.result.close();
  }, Object.entries(weights));

async function measure(page) {
  const mods = page.getByRole('region', { name: 'Mods', exact: true });
  await mods.waitFor();
  await page.waitForTimeout(1500);
  const box = await mods.boundingBox();
  await page.mouse.move(box.x + 400, box.y + 100);
  const scrolling = await longestTask(page, async () => {
    for (let i = 0; i < 40; i++) {
      await page.mouse.wheel(i % 4 === 3 ? 300 : 0, i < 20 ? 400 : -400);
      await page.waitForTimeout(25);
    }
  });
  const clicks = [];
  for (let i = 0; i < 6; i++) {
    const link = mods.getByRole('link').nth(3 + i);
    const selected = `document.querySelectorAll('[aria-label="Mods"] a')[${3 + i}]?.getAttribute('aria-current') === 'true'`;
    clicks.push(await answered(page, () => link.click(), selected));
    await page.waitForTimeout(400);
  }
  const builds = [];
  const columns = page.locator('[id^="build-"]');
  for (let i = 0; i < 5; i++) {
    const column = columns.nth((await columns.count()) - 2 - i);
    const id = await column.getAttribute('id');
    const shown = `document.getElementById(${JSON.stringify(id)}).getAttribute('aria-current') === 'true'`;
    builds.push(await answered(page, () => column.click(), shown));
    await page.waitForTimeout(400);
  }
  const weights = [];
  for (const word of ['must have', 'spare', 'want', 'spare']) {
    const group = page.getByRole('radiogroup', { name: /^Weight of/ });
    if (await group.getByRole('radio', { name: word, exact: true }).isChecked()) continue;
    const choice = group.getByText(word, { exact: true });
    const before = await page.evaluate(
      () => (window.before = document.querySelector('[data-board-at]').dataset.boardAt),
    );
    const changed = `document.querySelector('[data-board-at]').dataset.boardAt !== ${JSON.stringify(before)}`;
    weights.push(await answered(page, () => choice.click(), changed));
    await page.waitForTimeout(500);
  }
  return {
    longestTaskScrolling: Math.round(scrolling),
    clickOnMod: told(clicks),
    clickOnBuild: told(builds),
    changedWeight: told(weights),
  };
}

const asked = question && question !== '-' ? readQuestion(question) : makeQuestion(1, LARGE);
await startServer(PORT);
const page = await openPage();
await page.goto(`http://127.0.0.1:${PORT}/`);
await page.getByRole('button', { name: /Check every file/ }).click();
await page.getByRole('heading', { name: '3.1.1' }).waitFor();
await page.keyboard.press('c');
const demo = await measure(page);

await page.route('**/depots/index.json', async (route) => {
  const response = await route.fetch();
  await route.fulfill({ response, json: indexWith(await response.json(), asked.builds) });
});
await page.route('**/catalogue/index.json', (route) => route.fulfill({ json: asked.catalogue }));
await want(page, asked.weights);
await page.goto(page.url().replace(/choose.*/, 'survey'));
await page.getByRole('button', { name: 'Check changed files only' }).click();
await page
  .getByRole('link', { name: new RegExp(`^${asked.builds.at(-1).replaceAll('.', '\\.')}, .* mods run`) })
  .waitFor();
await page.goto(page.url().replace(/survey.*/, 'choose'));
const large = await measure(page);
if (picture) await page.screenshot({ path: picture });
tell({
  ...{ bench: 'board', what: 'milliseconds; 0 is a task below 50' },
  ...{ mods: asked.catalogue.mods.length, builds: asked.builds.length, large, demo },
});
end();
