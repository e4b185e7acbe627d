import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { largeGame } from './large-game.mjs';
import { addBuild, end, filesBelow, openPage, put, serveFolder, startServer, tell, TOKEN, workFolder } from './kit.mjs';

/*
 * node bench/own.mjs [FILES | FOLDER] [served | picked]
 * A game of one's own, as large as they come: FILES (100,000) small files in two depots, or FOLDER, of which every twentieth
 * file is another one at the second build. Served: its builds are made a source of manifests, it is added on a served folder,
 * looked at quickly and fully, chosen for and planned. Picked: its source is served as files, it is added as a folder that was
 * dropped on the page, which the browser alone reads and writes; surveyed, and repaired where 200 of its files were altered.
 * Seconds a stage beside `find` and `sha256sum` of the same folder, which are the reference; the longest task that held the page
 * up; and the most memory of the page's process: all of it, and without the pages of the browser's own program, which all
 * processes share. Works in TMPDIR. Needs a build. Prints one line of JSON.
 */
const PORT = 4188;
const [argument = '100000', way = 'served'] = process.argv.slice(2);
const SOURCE_PORT = 4189;
const ALTERED = 200;
const work = workFolder('own');

const filesOf = (folder) => filesBelow(folder).map((path) => path.slice(folder.length + 1));

/** Paths of the game with the bytes that each has at a build. */
function game() {
  if (/^\d+$/.test(argument)) return largeGame(Number(argument));
  const folder = realpathSync(argument);
  return filesOf(folder).map((path) => ({ path, bytes: () => readFileSync(join(folder, path)) }));
}

const files = game();
const isOther = (i) => i % 20 === 7;
const depotOf = (i) => (i % 10 < 7 ? 'base' : 'world');

const at = (build, i) =>
  build === 2 && isOther(i) ? Buffer.concat([files[i].bytes(), Buffer.from('two')]) : files[i].bytes();

function makeSource() {
  put(
    join(work, 'game.json'),
    JSON.stringify({ format: 'regressum-game', version: 1, id: 'own', title: 'Own', rules: {} }),
  );
  for (const build of [1, 2]) {
    for (const i of files.keys()) put(join(work, `build-${build}`, depotOf(i), files[i].path), at(build, i));
    const depots = Object.fromEntries(['base', 'world'].map((depot) => [depot, join(work, `build-${build}`, depot)]));
    addBuild(work, `${build}.0`, `2026-0${build}-01`, depots, ...(way === 'picked' ? ['--with-files'] : []));
    rmSync(join(work, `build-${build}`), { recursive: true });
  }
  for (const i of files.keys()) put(join(work, 'root/own', files[i].path), at(2, i));
}

/** Spoils files of the folder, all over it. */
function alter() {
  const step = Math.max(1, Math.floor(files.length / ALTERED));
  for (let i = 0; i < files.length; i += step) put(join(work, 'root/own', files[i].path), `altered ${i}`);
}

const seconds = (start) => Math.round((performance.now() - start) / 10) / 100;

/** What the system's own programs take for the same: to list the folder, and to hash it by as many processes as cores. */
function reference() {
  const folder = join(work, 'root/own');
  const listing = performance.now();
  execFileSync('find', [folder, '-type', 'f', '-printf', '%s %p\n'], { maxBuffer: 2 ** 30 });
  const list = seconds(listing);
  const hashing = performance.now();
  execFileSync('sh', ['-c', `find "${folder}" -type f -print0 | xargs -0 -n 200 -P 2 sha256sum`], {
    maxBuffer: 2 ** 30,
  });
  return { list, hash: seconds(hashing) };
}

/** Of the process of the browser's that shows the page: the most memory since this was asked last, in MB. */
function pageMemory() {
  const renderers = readdirSync('/proc').flatMap((pid) => {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) return [];
      const status = readFileSync(`/proc/${pid}/status`, 'utf8');
      const megabytes = (name) => Math.round(Number(new RegExp(`${name}:\\s+(\\d+)`).exec(status)?.[1] ?? 0) / 1000);
      // The kernel begins its count anew.
      writeFileSync(`/proc/${pid}/clear_refs`, '5');
      const all = megabytes('VmHWM');
      return [{ all, own: all - megabytes('RssFile') }];
    } catch {
      return [];
    }
  });
  return renderers.reduce((a, b) => (b.all > a.all ? b : a), { all: 0, own: 0 });
}

/** Lets a page change the folder that it is given, as a person would who allows it. */
function allowChanges(profile) {
  const setting = { [`http://127.0.0.1:${PORT},*`]: { setting: 1 } };
  const content_settings = { exceptions: { file_system_write_guard: setting } };
  // Without a network the browser waits five seconds for what its maker says of a file that is written.
  put(
    join(profile, 'Default/Preferences'),
    JSON.stringify({ safebrowsing: { enabled: false }, profile: { content_settings } }),
  );
}

/** Drops the folder on the page, which gives it what a picker gives. */
async function dropFolder(page) {
  const session = await page.context().newCDPSession(page);
  const data = { items: [], files: [join(work, 'root/own')], dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver', 'drop'])
    await session.send('Input.dispatchDragEvent', { type, x: 600, y: 400, data });
}

makeSource();
if (way === 'picked') alter();
const known = reference();
await startServer(PORT, { roots: join(work, 'root') });
allowChanges(join(work, 'profile'));
const page = await openPage({ profile: join(work, 'profile') });
page.setDefaultTimeout(600_000);
await page.addInitScript(() => {
  window.longest = 0;
  new PerformanceObserver((list) => {
    for (const { duration } of list.getEntries()) window.longest = Math.max(window.longest, duration);
  }).observe({ type: 'longtask' });
});
const stages = {};
/** Does what a person does, and notes how long it took until `done`, and what held the page up meanwhile. */
const stage = async (name, act, done) => {
  await page.evaluate(() => (window.longest = 0));
  const start = performance.now();
  await act();
  await done();
  const taken = seconds(start);
  await page.waitForTimeout(500);
  stages[name] = {
    seconds: taken,
    longestTaskMs: Math.round(await page.evaluate(() => window.longest)),
    memoryMB: pageMemory(),
  };
};
const press = (name) => page.getByRole('button', { name }).click();
const shown = (locator) => locator.first().waitFor();

await page.goto(`http://127.0.0.1:${PORT}/games#token=${TOKEN}`);
await page.getByLabel('Title').fill('Own');
await press('Add this game');
await (way === 'picked' ? inPickedFolder() : inServedFolder());

async function inServedFolder() {
  const handed = filesOf(join(work, 'source')).map((path) => join(work, 'source', path));
  await stage(
    'source',
    () => page.locator('input[type=file][multiple]').first().setInputFiles(handed),
    () => shown(page.getByText('2 builds, 2 depots known.')),
  );
  await page.getByLabel('Subfolder').fill('own');
  await stage(
    'quickLook',
    () => press('Add own'),
    () => shown(page.getByRole('heading', { name: '2.0', exact: true })),
  );
  await survey();
  await chooseBuild('1.0');
  await stage('plan', openAssemble, () => shown(page.getByText('Kept in place')));
}

async function inPickedFolder() {
  await serveFolder(join(work, 'source'), SOURCE_PORT);
  await stage(
    'source',
    async () => {
      await page.getByLabel('Address').fill(`http://127.0.0.1:${SOURCE_PORT}/index.json`);
      await press('Add this address');
    },
    () => shown(page.getByText('2 builds, 2 depots known.')),
  );
  await stage(
    'quickLook',
    async () => {
      await dropFolder(page);
      await press('Add it');
    },
    () => shown(page.getByRole('heading', { name: '2.0', exact: true })),
  );
  await survey();
  await chooseBuild('2.0');
  await stage(
    'fetch',
    async () => {
      await page
        .getByRole('link', { name: /^Fetch.*(missing|B)/ })
        .first()
        .click();
      await press(/^Fetch [\d.]+ .?B of/);
    },
    () => shown(page.getByText(/Everything for 2\.0 .* is on this disk/)),
  );
  await stage('plan', openAssemble, () => shown(page.getByText('Kept in place')));
  await stage(
    'repair',
    () => press('Lay down 2.0 in place'),
    () => shown(page.getByText('in place, byte for byte')),
  );
}

function survey() {
  const done = () => shown(page.getByText(/files, checked/));
  return stage('survey', () => press('Check every file in own'), done);
}

async function chooseBuild(label) {
  const named = new RegExp(label.replace('.', '\\.'));
  await stage(
    'choose',
    async () => {
      await page
        .getByRole('link', { name: /^Choose/ })
        .first()
        .click();
      await page
        .getByRole('link', { name: new RegExp(`^${named.source}`) })
        .first()
        .click();
    },
    () => shown(page.getByRole('button', { name: named })),
  );
  await stage(
    'target',
    () => page.getByRole('button', { name: named }).first().click(),
    () => shown(page.getByRole('link', { name: /^Fetch.*(missing|B)/ })),
  );
}

async function openAssemble() {
  await page
    .getByRole('link', { name: /^Assemble/ })
    .first()
    .click();
}
tell({
  ...{ bench: 'own', way, files: files.length, reference: known, stages },
  surveyTimesReference: Math.round((100 * stages.survey.seconds) / known.hash) / 100,
  pageMemoryMB: Math.max(...Object.values(stages).map(({ memoryMB }) => memoryMB.own)),
});
end();
