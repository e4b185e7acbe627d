import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { chance } from './chance.mjs';
import { openModdedGame } from './own-game.mjs';
import { serveFolder } from './serve-folder.mjs';

/*
 * node bench/carry.mjs [TABLES] [ROWS] [SEED]
 * A mod of TABLES (100) tables of ROWS (5,000) rows each, of which nobody says what it was made for, carried from the second to the third build
 * of a made-up game in a real folder, by the interface: the build that it was made for is found, its files and the game's are merged in a
 * worker. Prints one line of JSON: seconds until all are compared, those of opening the page left out (`pageSeconds`), the same by `git merge-file` over the same files, the longest task of
 * the page meanwhile in milliseconds, and whether each carried table has what the mod and the patch changed. Works in TMPDIR, needs a build,
 * Chromium and git.
 */
const [wantedTables = '100', wantedRows = '5000', seed = '1'] = process.argv.slice(2);
const [TABLES, ROWS] = [Number(wantedTables), Number(wantedRows)];
const [PORT, SOURCE_PORT] = [4196, 4197];
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-carry-')));
const { upTo } = chance(seed);

function put(path, bytes) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}

const nameOf = (table) => `tables/part-${table}.csv`;
const textOf = (rows) => ['id,name,toll,depth', ...rows.map((row) => row.join(','))].join('\n') + '\n';

/** Rows with some of the tolls changed, each row by one side at most. */
const changed = (rows, every, by) =>
  rows.map((row, i) => (i % every === by ? [row[0], row[1], row[2] + 1 + by, row[3]] : row));

const tables = Array.from({ length: TABLES }, () =>
  Array.from({ length: ROWS }, (_, i) => [`r${i}`, `Lock ${upTo(1e6)}`, upTo(1000), upTo(40)]),
);
/** Three builds: the patches change other rows than the mod, which is made from the second. */
const builds = [(rows) => rows, (rows) => changed(rows, 50, 0), (rows) => changed(changed(rows, 50, 0), 50, 7)];
const modOf = (rows) => changed(builds[1](rows), 50, 3);
const wanted = (rows) => changed(modOf(rows), 50, 7);

const rules = { program: 'game.prog', modsFolder: 'mods', loadOrder: 'mods/list.txt', own: [] };
const game = { format: 'regressum-game', version: 1, id: 'own', title: 'Own', rules, sources: [] };
put(join(work, 'game.json'), JSON.stringify(game));
const root = join(work, 'root/game');
for (const [number, build] of builds.entries()) {
  put(join(work, 'base/game.prog'), `program ${number}`.repeat(100));
  tables.forEach((rows, i) => put(join(work, 'base', nameOf(i)), textOf(build(rows))));
  execFileSync(process.execPath, [
    'scripts/make-source.mjs',
    ...['--game', join(work, 'game.json'), '--label', `${number + 1}.0`, '--date', `2026-0${number + 1}-01`],
    ...['--on', 'live', '--from', `base=${join(work, 'base')}`, '--with-files', '--to', join(work, 'source')],
  ]);
}
mkdirSync(dirname(root), { recursive: true });
execFileSync('cp', ['-r', join(work, 'base'), root]);
const files = tables.map((rows, i) => {
  const [path, bytes] = [`mods/tolls/${nameOf(i)}`, Buffer.from(textOf(modOf(rows)))];
  put(join(root, path), bytes);
  return { path, size: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex'), href: '' };
});
put(join(root, 'mods/list.txt'), 'tolls\n');
const release = {
  version: '1.0',
  date: '2026-02-02',
  builds: [],
  href: '',
  touches: tables.map((_, i) => nameOf(i)),
  requires: [],
  files,
};
const mod = {
  id: 'tolls',
  name: 'Tolls',
  author: 'A Maker',
  kind: 'data',
  lookedAfter: false,
  summary: '',
  releases: [release],
};
put(join(work, 'catalogue.json'), JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods: [mod] }));

/** What git takes for the same merges, its starts included. */
function byGit() {
  const start = performance.now();
  for (let i = 0; i < TABLES; i++) {
    const of = (what) => join(work, 'git', `${what}-${i}`);
    execFileSync('git', ['merge-file', '-q', '-p', of('ours'), of('base'), of('theirs')], {
      stdio: ['ignore', 'ignore', 'ignore'],
    });
  }
  return (performance.now() - start) / 1000;
}
tables.forEach((rows, i) => {
  put(join(work, 'git', `base-${i}`), textOf(builds[1](rows)));
  put(join(work, 'git', `ours-${i}`), textOf(modOf(rows)));
  put(join(work, 'git', `theirs-${i}`), textOf(builds[2](rows)));
});

const running = {};
const source = await serveFolder(join(work, 'source'), SOURCE_PORT);
try {
  const { page, home } = await openModdedGame(work, PORT, running, `http://127.0.0.1:${SOURCE_PORT}`);
  page.setDefaultTimeout(300_000);
  await page.goto(`${home}/carry?mod=tolls&build=3.0`);
  await page.getByText(/files at each of 2 builds are compared/).waitFor();
  await page.getByRole('button', { name: /^Fetch \d/ }).click();
  await page.getByText(/Its files are nearest to those of 2\.0/).waitFor();
  await page.getByRole('button', { name: `Carry ${TABLES} files forward` }).waitFor();

  // Opened again with everything at hand, from the first byte of the page to the last table.
  await page.addInitScript(() => {
    window.longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) window.longest = Math.max(window.longest, duration);
    }).observe({ type: 'longtask', buffered: true });
  });
  const opened = async (address, shown) => {
    const start = performance.now();
    await page.goto(address);
    await shown.waitFor();
    return (performance.now() - start) / 1000;
  };
  const list = page.getByRole('heading', { name: /to (be carried|carry) to 3.0/ });
  const pageSeconds = await opened(`${home}/carry?build=3.0`, list);
  const all = page.getByRole('button', { name: `Carry ${TABLES} files forward` });
  const seconds = (await opened(`${home}/carry?mod=tolls&build=3.0`, all)) - pageSeconds;
  const longestTaskMs = await page.evaluate(() => window.longest);
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Archive' }).click();
  await (await saved).saveAs(join(work, 'carried.zip'));
  execFileSync('unzip', ['-q', join(work, 'carried.zip'), '-d', join(work, 'carried')]);
  const right = tables.filter((rows, i) => {
    put(join(work, 'wanted'), textOf(wanted(rows)));
    try {
      execFileSync('cmp', ['-s', join(work, 'wanted'), join(work, 'carried/mods/tolls', nameOf(i))]);
      return true;
    } catch {
      return false;
    }
  }).length;
  const digits = (n) => Number(n.toFixed(2));
  console.log(
    JSON.stringify({
      ...{ bench: 'carry', tables: TABLES, rows: ROWS, right },
      ...{
        seconds: digits(seconds),
        pageSeconds: digits(pageSeconds),
        gitSeconds: digits(byGit()),
        longestTaskMs: Math.round(longestTaskMs),
      },
    }),
  );
  if (right < TABLES) process.exitCode = 1;
} finally {
  await running.browser?.close();
  running.server?.kill();
  source.close();
  source.closeAllConnections();
  rmSync(work, { recursive: true, force: true, maxRetries: 5 });
}
