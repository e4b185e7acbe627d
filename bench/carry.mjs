import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { chance } from './chance.mjs';
import { addBuild, digits, end, put, seconds, serveFolder, sha256, tell, tool, workFolder } from './kit.mjs';
import { openModdedGame } from './own-game.mjs';

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
const work = workFolder('carry');
const { upTo } = chance(seed);

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
  addBuild(work, `${number + 1}.0`, `2026-0${number + 1}-01`, { base: join(work, 'base') }, '--with-files');
}
mkdirSync(dirname(root), { recursive: true });
tool('cp', ['-r', join(work, 'base'), root]);
const files = tables.map((rows, i) => {
  const [path, bytes] = [`mods/tolls/${nameOf(i)}`, Buffer.from(textOf(modOf(rows)))];
  put(join(root, path), bytes);
  return { path, size: bytes.length, sha256: sha256(bytes), href: '' };
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
  return seconds(() => {
    for (let i = 0; i < TABLES; i++) {
      const files = ['ours', 'base', 'theirs'].map((what) => join(work, 'git', `${what}-${i}`));
      execFileSync('git', ['merge-file', '-q', '-p', ...files], { stdio: 'ignore' });
    }
  });
}
tables.forEach((rows, i) => {
  put(join(work, 'git', `base-${i}`), textOf(builds[1](rows)));
  put(join(work, 'git', `ours-${i}`), textOf(modOf(rows)));
  put(join(work, 'git', `theirs-${i}`), textOf(builds[2](rows)));
});

await serveFolder(join(work, 'source'), SOURCE_PORT);
const { page, home } = await openModdedGame(work, PORT, `http://127.0.0.1:${SOURCE_PORT}`);
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
const opened = (address, shown) =>
  seconds(async () => {
    await page.goto(address);
    await shown.waitFor();
  });
const list = page.getByRole('heading', { name: /to (be carried|carry) to 3.0/ });
const pageSeconds = await opened(`${home}/carry?build=3.0`, list);
const all = page.getByRole('button', { name: `Carry ${TABLES} files forward` });
const taken = (await opened(`${home}/carry?mod=tolls&build=3.0`, all)) - pageSeconds;
const longestTaskMs = await page.evaluate(() => window.longest);
const saved = page.waitForEvent('download');
await page.getByRole('button', { name: 'Archive' }).click();
await (await saved).saveAs(join(work, 'carried.zip'));
tool('unzip', ['-q', join(work, 'carried.zip'), '-d', join(work, 'carried')]);
const right = tables.filter((rows, i) => {
  put(join(work, 'wanted'), textOf(wanted(rows)));
  const { status } = spawnSync('cmp', ['-s', join(work, 'wanted'), join(work, 'carried/mods/tolls', nameOf(i))]);
  return status === 0;
}).length;
tell({
  ...{ bench: 'carry', tables: TABLES, rows: ROWS, right },
  ...{
    seconds: digits(taken),
    pageSeconds: digits(pageSeconds),
    gitSeconds: digits(await byGit()),
    longestTaskMs: Math.round(longestTaskMs),
  },
});
if (right < TABLES) process.exitCode = 1;
end();
