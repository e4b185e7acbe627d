import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { chromium } from '@playwright/test';
import { startServer } from './start-server.mjs';

/*
 * node bench/switch.mjs [MODS] [FILES] [ROUNDS]
 * Switches a served folder between a profile with MODS (300) mods of FILES (20,000) files in all and one without, there and back,
 * ROUNDS (3) times, by the interface: seconds from the click until the job has ended, all that is kept before and noted after
 * included. Reference in the same run: `cp -r` of the files that differ, and `sync` of the copy. Works in TMPDIR, needs a build and
 * Chromium. Prints one line of JSON.
 */
const [mods = '300', files = '20000', rounds = '3'] = process.argv.slice(2);
const [MODS, FILES, ROUNDS] = [mods, files, rounds].map(Number);
const PORT = 4194;
const TOKEN = 'bench';
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-switch-')));
const root = join(work, 'root/game');

function put(path, bytes) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}
const sha = (bytes) => createHash('sha256').update(bytes).digest('hex');

function makeGame() {
  const rules = {
    program: 'game.prog',
    modsFolder: 'mods',
    loadOrder: 'mods/list.txt',
    own: [{ folder: 'saves', kind: 'saves' }],
  };
  put(
    join(work, 'game.json'),
    JSON.stringify({ format: 'regressum-game', version: 1, id: 'own', title: 'Own', rules, sources: [] }),
  );
  for (let i = 0; i < 50; i++)
    put(join(work, 'base', i === 0 ? 'game.prog' : `data/file-${i}.bin`), `base ${i}`.repeat(200));
  execFileSync(process.execPath, [
    'scripts/make-source.mjs',
    ...['--game', join(work, 'game.json'), '--label', '1.0', '--date', '2026-01-01', '--on', 'live'],
    ...['--from', `base=${join(work, 'base')}`, '--to', join(work, 'source')],
  ]);
  mkdirSync(dirname(root));
  execFileSync('cp', ['-r', join(work, 'base'), root]);
  put(join(root, 'saves/one.sav'), 'a save');
  const catalogue = Array.from({ length: MODS }, (_, mod) => {
    const own = Array.from({ length: Math.ceil(FILES / MODS) }, (_, i) => {
      const path = `mods/mod-${mod}/part-${i % 5}/file-${i}.dat`;
      const bytes = Buffer.from(sha(`${mod} ${i}`).repeat(16 + ((mod * 31 + i * 7) % 200)));
      put(join(root, path), bytes);
      return { path, size: bytes.length, sha256: sha(bytes), href: '' };
    });
    const release = { version: '1.0', date: '2026-01-01', builds: ['1.0'], files: own };
    return {
      id: `mod-${mod}`,
      name: `Mod ${mod}`,
      author: 'A Maker',
      kind: 'data',
      lookedAfter: true,
      summary: '',
      releases: [release],
    };
  });
  put(join(root, 'mods/list.txt'), catalogue.map(({ id }) => `${id}\n`).join(''));
  put(join(work, 'catalogue.json'), JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods: catalogue }));
}

const filesOf = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile()).length;
const seconds = (start) => (performance.now() - start) / 1000;
const median = (some) => some.toSorted((a, b) => a - b)[some.length >> 1];
const digits = (n) => Number(n.toFixed(2));

/** What it takes to copy the files that differ, and to have the copy outlast a loss of power. */
function reference(round) {
  const to = join(work, `copied-${round}`);
  execFileSync('sync');
  const start = performance.now();
  execFileSync('cp', ['-r', join(work, 'mods'), to]);
  execFileSync('sync', ['-f', to]);
  const taken = seconds(start);
  rmSync(to, { recursive: true });
  return taken;
}

let server, browser;
try {
  makeGame();
  execFileSync('cp', ['-r', join(root, 'mods'), join(work, 'mods')]);
  server = await startServer(PORT, {
    ...{ REGRESSUM_ROOTS: join(work, 'root'), REGRESSUM_TOKEN: TOKEN, REGRESSUM_DEMO: 'no', REGRESSUM_WRITE: 'yes' },
  });
  browser = await chromium.launchPersistentContext(join(work, 'profile'), {
    ...{ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] },
    ...{ viewport: { width: 1280, height: 800 }, baseURL: `http://127.0.0.1:${PORT}` },
  });
  const page = browser.pages()[0];
  page.setDefaultTimeout(120_000);
  const press = (name) => page.getByRole('button', { name }).first().click();
  await page.goto(`/games#token=${TOKEN}`);
  await page.getByLabel('File of a game').setInputFiles(join(work, 'game.json'));
  const handed = readdirSync(join(work, 'source'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name));
  await page
    .locator('input[type=file][multiple]')
    .first()
    .setInputFiles([...handed, join(work, 'catalogue.json')]);
  await page.getByText(new RegExp(`1 build, 1 depot known`)).first().waitFor();
  await page.getByLabel('Subfolder').fill('game');
  await press('Add game');
  await press('Check every file in game');
  await page
    .getByText(/files, checked/)
    .first()
    .waitFor();
  const home = new URL(page.url()).pathname.split('/')[1];
  await page.goto(`/${home}/profiles`);
  await page.getByLabel('Name', { exact: true }).first().fill('Calm');
  await page.getByLabel('Mods').first().click();
  await page
    .getByRole('option', { name: /none|without/i })
    .first()
    .click();
  await page.getByRole('button', { name: /^Make/ }).first().click();

  /** Milliseconds from the click until the job has ended, by the job's own record. */
  async function switchTo(name) {
    await page
      .getByRole('link', { name: new RegExp(`^${name}`) })
      .first()
      .click();
    const button = page.getByRole('button', { name: new RegExp(`^Switch to ${name}`) });
    await button.and(page.locator(':enabled')).waitFor();
    await button.click();
    await page
      .getByText(`${name} is in the folder`)
      .or(page.getByRole('link', { name: new RegExp(`^${name}.*in the folder`) }))
      .first()
      .waitFor();
    return page.evaluate(async () => {
      const db = await new Promise((resolve) => {
        const open = indexedDB.open('regressum');
        open.onsuccess = () => resolve(open.result);
      });
      for (;;) {
        const all = await new Promise((resolve) => {
          const ask = db.transaction('jobs').objectStore('jobs').getAll();
          ask.onsuccess = () => resolve(ask.result);
        });
        const last = all.filter(({ kind }) => kind === 'switch-profile').sort((a, b) => b.startedAt - a.startedAt)[0];
        if (last?.state === 'failed') throw new Error(JSON.stringify(last.failure));
        if (last?.endedAt) return (db.close(), (last.endedAt - last.startedAt) / 1000);
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    });
  }
  const [away, back, copied] = [[], [], []];
  for (let round = 0; round < ROUNDS; round++) {
    copied.push(reference(round));
    away.push(await switchTo('Calm'));
    if (filesOf(join(root, 'mods')) > 0) throw new Error('mods are left in the folder');
    copied.push(reference(round));
    back.push(await switchTo('First'));
    if (filesOf(join(root, 'mods')) !== filesOf(join(work, 'mods'))) throw new Error('not all mods came back');
  }
  execFileSync('diff', ['-r', join(work, 'mods'), join(root, 'mods')]);
  console.log(
    JSON.stringify({
      ...{ bench: 'switch', mods: MODS, files: filesOf(join(work, 'mods')), rounds: ROUNDS },
      ...{ awaySeconds: digits(median(away)), backSeconds: digits(median(back)), copySeconds: digits(median(copied)) },
      ...{ awayTimesCopy: digits(median(away) / median(copied)), backTimesCopy: digits(median(back) / median(copied)) },
    }),
  );
} catch (error) {
  await browser?.pages()[0]?.screenshot({ path: join(tmpdir(), 'regressum-switch.png') });
  throw error;
} finally {
  await browser?.close();
  server?.kill('SIGKILL');
  rmSync(work, { recursive: true, force: true });
}
process.exit();
