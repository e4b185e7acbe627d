import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { chromium } from '@playwright/test';
import { startServer } from './start-server.mjs';

/*
 * node bench/own.mjs [FILES | FOLDER]
 * A game of one's own, as large as they come: FILES (100,000) small files in two depots, or FOLDER, of which every twentieth
 * file is another one at the second build. Its builds are made a source of manifests, it is added on a served folder, looked at
 * quickly and fully, chosen for and planned. Seconds a stage beside `find` and `sha256sum` of the same folder, which are the
 * reference; the longest task that held the page up; and the most memory that the page's process had. Works in TMPDIR. Needs a
 * build. Prints one line of JSON.
 */
const PORT = 4188;
const TOKEN = 'bench';
const [argument = '100000'] = process.argv.slice(2);
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-own-')));

const filesOf = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1));

/** Paths of the game with the bytes that each has at a build. */
function game() {
  if (/^\d+$/.test(argument))
    return Array.from({ length: Number(argument) }, (_, i) => ({
      path: `area-${i % 37}/set-${Math.floor(i / 37) % 53}/file-${i}.dat`,
      bytes: () =>
        Buffer.from(
          createHash('sha512')
            .update(`file ${i}`)
            .digest('hex')
            .repeat(1 + (i % 13)),
        ),
    }));
  const folder = realpathSync(argument);
  return filesOf(folder).map((path) => ({ path, bytes: () => readFileSync(join(folder, path)) }));
}

const files = game();
const isOther = (i) => i % 20 === 7;
const depotOf = (i) => (i % 10 < 7 ? 'base' : 'world');

function put(path, bytes) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}

const at = (build, i) =>
  build === 2 && isOther(i) ? Buffer.concat([files[i].bytes(), Buffer.from('two')]) : files[i].bytes();

function makeSource() {
  put(
    join(work, 'game.json'),
    JSON.stringify({ format: 'regressum-game', version: 1, id: 'own', title: 'Own', rules: {} }),
  );
  for (const build of [1, 2]) {
    for (const i of files.keys()) put(join(work, `build-${build}`, depotOf(i), files[i].path), at(build, i));
    const from = ['base', 'world'].flatMap((depot) => ['--from', `${depot}=${join(work, `build-${build}`, depot)}`]);
    const args = [
      '--game',
      join(work, 'game.json'),
      '--label',
      `${build}.0`,
      '--date',
      `2026-0${build}-01`,
      '--on',
      'all',
    ];
    execFileSync(process.execPath, ['scripts/make-source.mjs', ...args, ...from, '--to', join(work, 'source')]);
    rmSync(join(work, `build-${build}`), { recursive: true });
  }
  for (const i of files.keys()) put(join(work, 'root/own', files[i].path), at(2, i));
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

/** The most memory that a process of the browser's that shows pages has had, in bytes. */
function pageMemory() {
  const renderers = readdirSync('/proc').flatMap((pid) => {
    try {
      const isPage = readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer');
      const isOurs = readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(work) || isPage;
      const most = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
      return isPage && isOurs && most ? [1024 * Number(most)] : [];
    } catch {
      return [];
    }
  });
  return Math.max(0, ...renderers);
}

let server;
let browser;
try {
  makeSource();
  const known = reference();
  server = await startServer(PORT, {
    REGRESSUM_ROOTS: join(work, 'root'),
    REGRESSUM_TOKEN: TOKEN,
    REGRESSUM_DEMO: 'no',
    REGRESSUM_WRITE: 'yes',
  });
  browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
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
    stages[name] = { seconds: taken, longestTaskMs: Math.round(await page.evaluate(() => window.longest)) };
  };
  const press = (name) => page.getByRole('button', { name }).click();
  const shown = (locator) => locator.first().waitFor();

  await page.goto(`http://127.0.0.1:${PORT}/games#token=${TOKEN}`);
  await page.getByLabel('Title').fill('Own');
  await press('Add this game');
  const source = filesOf(join(work, 'source')).map((path) => join(work, 'source', path));
  await stage(
    'source',
    () => page.locator('input[type=file][multiple]').first().setInputFiles(source),
    () => shown(page.getByText('2 builds, 2 depots known.')),
  );
  await page.getByLabel('Subfolder').fill('own');
  await stage(
    'quickLook',
    () => press('Add own'),
    () => shown(page.getByRole('heading', { name: '2.0', exact: true })),
  );
  await stage(
    'survey',
    () => press('Check every file in own'),
    () => shown(page.getByText(/files, checked/)),
  );
  await stage(
    'choose',
    async () => {
      await page
        .getByRole('link', { name: /^Choose/ })
        .first()
        .click();
      await page.getByRole('link', { name: /^1\.0/ }).first().click();
    },
    () => shown(page.getByRole('button', { name: /1\.0/ })),
  );
  await stage(
    'target',
    () => page.getByRole('button', { name: /1\.0/ }).first().click(),
    () => shown(page.getByRole('link', { name: /^Fetch.*missing/ })),
  );
  await stage(
    'plan',
    () =>
      page
        .getByRole('link', { name: /^Assemble/ })
        .first()
        .click(),
    () => shown(page.getByText('Kept in place')),
  );
  console.log(
    JSON.stringify({
      ...{ bench: 'own', files: files.length, reference: known, stages },
      surveyTimesReference: Math.round((100 * stages.survey.seconds) / known.hash) / 100,
      pageMemoryMB: Math.round(pageMemory() / 1e6),
    }),
  );
} finally {
  await browser?.close();
  server?.kill('SIGKILL');
  if (existsSync(work)) rmSync(work, { recursive: true });
}
process.exit();
