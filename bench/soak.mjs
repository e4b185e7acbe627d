import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, rmSync, statSync, unlinkSync } from 'node:fs';
import { join } from 'node:path';
import { chance } from './chance.mjs';
import { addBuild, end, openPage, put, serveFolder, sha256, startServer, tell, TOKEN, workFolder } from './kit.mjs';

/*
 * node bench/soak.mjs [DAYS] [SEED] [served | browser] [FILES]
 * One install through DAYS (200) days in a row, on a served folder or on the browser's own disk, by the interface itself: patches
 * come out and a storefront brings them, the game is played, the folder is laid down, held, spoilt and put right, kept, switched
 * between two profiles, taken back. After each act the folder is held against what was promised, file by file, and each evening
 * what History says lies on the drive against what lies there. What changes keep is deleted but for the newest ten, keepsakes but
 * for the newest five. Works in TMPDIR, needs a build and Chromium. Prints one line of JSON; ends with 1 unless all was as promised,
 * nothing was orphaned, no more lay on the drive than is kept on purpose, and the page's memory has not grown: the last fifth of the days
 * against the second.
 */
const [wantedDays = '200', seed = '1', way = 'served', wantedFiles = '60'] = process.argv.slice(2);
const [DAYS, FILES] = [Number(wantedDays), Number(wantedFiles)];
const PORT = way === 'served' ? 4190 : 4192;
const SOURCE_PORT = PORT + 1;
const work = workFolder('soak');
const KEPT_CHANGES = 10;

const { next, upTo, one } = chance(seed);

const bytesOf = (words, length) => {
  const block = createHash('sha512').update(words).digest();
  return Buffer.concat(Array.from({ length: Math.ceil(length / 64) }, () => block)).subarray(0, length);
};

/** Builds: of each file the number of its version. A patch changes a few, and now and then adds or removes one. */
const builds = [];
function patch() {
  const before = builds.at(-1);
  const tree = new Map(before?.tree);
  if (!before) for (let i = 0; i < FILES; i++) tree.set(`data/part-${i % 7}/file-${i}.bin`, 1);
  else {
    for (const path of tree.keys()) if (next() < 0.08) tree.set(path, tree.get(path) + 1);
    if (next() < 0.3) tree.set(`data/new/file-${builds.length}.bin`, 1);
    if (next() < 0.3) tree.delete(one([...tree.keys()]));
  }
  tree.set('game.prog', builds.length + 1);
  builds.push({ label: `${builds.length + 1}.0`, tree });
  return builds.at(-1);
}
const contentOf = (path, version) =>
  bytesOf(`${path} ${version}`, 2000 + (Number(sha256(path).slice(0, 4).replace(/\D/g, '0')) % 40_000));

/** Bytes of the largest build so far. */
let largest = 0;
/**
 * What may lie on the drive on a day: the folder, ten changes of which each keeps as much as a folder at most (the further apart the builds,
 * the more of it), what keepsakes hold, and short records of what was done.
 */
const mayLie = (day) => (2 + KEPT_CHANGES) * largest + 300e3 + day * 5e3;

/** Puts a build's files on the source, as its maker does. */
function publish({ label, tree }) {
  const from = join(work, 'making');
  let size = 0;
  for (const [path, version] of tree) {
    const bytes = contentOf(path, version);
    size += bytes.length;
    put(join(from, path), bytes);
  }
  largest = Math.max(largest, size);
  const date = new Date(Date.UTC(2025, 0, builds.length)).toISOString().slice(0, 10);
  addBuild(work, label, date, { base: from }, '--with-files');
  rmSync(from, { recursive: true });
}

/** A real folder, as others see it. */
const onDrive = (root) => ({
  async digests() {
    const files = readdirSync(root, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
    const paths = files.map((entry) => join(entry.parentPath, entry.name).slice(root.length + 1));
    return new Map(
      paths
        .filter((path) => !path.startsWith('regressum-store/'))
        .map((path) => [path, sha256(readFileSync(join(root, path)))]),
    );
  },
  write: async (path, bytes) => put(join(root, path), bytes),
  remove: async (path) => unlinkSync(join(root, path)),
  async sum() {
    const files = readdirSync(root, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
    return {
      files: files.length,
      bytes: files.reduce((sum, entry) => sum + statSync(join(entry.parentPath, entry.name)).size, 0),
    };
  },
});

/** The folder of an install on the browser's own disk, reached past the program. */
const inBrowser = (page, install) => {
  const on = (what, path, text) =>
    page.evaluate(
      async ([what, install, path, text]) => {
        const root = await navigator.storage.getDirectory();
        const below = async (folder, names, create = false) => {
          for (const name of names) folder = await folder.getDirectoryHandle(name, { create });
          return folder;
        };
        const own = await below(root, ['installs', install]);
        const pointer = await own.getFileHandle('current.dat').catch(() => undefined);
        const tree = pointer ? JSON.parse(await (await pointer.getFile()).text()).tree : 't1';
        const all = [];
        const walk = async (folder, path) => {
          for await (const [name, handle] of folder.entries()) {
            const here = path === '' ? name : `${path}/${name}`;
            if (handle.kind === 'directory') await walk(handle, here);
            else if (!name.endsWith('.~read-only') && !name.includes('.~fresh'))
              all.push([here, await handle.getFile()]);
          }
        };
        const hex = (bytes) => Array.from(new Uint8Array(bytes), (b) => b.toString(16).padStart(2, '0')).join('');
        if (what === 'digests') {
          await walk(await below(own, ['trees', tree]), '');
          return Promise.all(
            all.map(async ([path, file]) => [
              path,
              hex(await crypto.subtle.digest('SHA-256', await file.arrayBuffer())),
            ]),
          );
        }
        if (what === 'sum') {
          await walk(own, '');
          await walk(await below(root, ['store'], true), '');
          return { files: all.length, bytes: all.reduce((sum, [, file]) => sum + file.size, 0) };
        }
        const names = ['trees', tree, ...path.split('/')];
        const last = names.pop();
        const folder = await below(own, names, true);
        if (what === 'remove') return folder.removeEntry(last);
        const stream = await (await folder.getFileHandle(last, { create: true })).createWritable();
        await stream.write(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)));
        await stream.close();
      },
      [what, install, path, text],
    );
  return {
    digests: async () => new Map(await on('digests')),
    write: (path, bytes) => on('write', path, Buffer.from(bytes).toString('base64')),
    remove: (path) => on('remove', path),
    sum: () => on('sum'),
  };
};

/** Whether a process is of the browser of this run. */
function isOurs(pid) {
  for (let at = pid; Number(at) > 1;) {
    if (readFileSync(`/proc/${at}/cmdline`, 'utf8').includes(`--user-data-dir=${work}`)) return true;
    at = /^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${at}/status`, 'utf8'))[1];
  }
  return false;
}

/** Memory of the browser's process that shows the page, without the pages of its own program, in MB. */
function pageMemory() {
  const renderers = readdirSync('/proc').flatMap((pid) => {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer') || !isOurs(pid)) return [];
      const status = readFileSync(`/proc/${pid}/status`, 'utf8');
      const megabytes = (name) => Math.round(Number(new RegExp(`${name}:\\s+(\\d+)`).exec(status)?.[1] ?? 0) / 1000);
      return [megabytes('VmRSS') - megabytes('RssFile')];
    } catch {
      return [];
    }
  });
  return Math.max(0, ...renderers);
}

const wrong = [];
const counts = {};
put(
  join(work, 'game.json'),
  JSON.stringify({
    ...{ format: 'regressum-game', version: 1, id: 'soak', title: 'Soak' },
    rules: {
      program: 'game.prog',
      modsFolder: 'mods',
      own: [
        { folder: 'saves', kind: 'saves' },
        { folder: 'settings.ini', kind: 'settings' },
      ],
    },
    sources: [],
  }),
);
for (let i = 0; i < 3; i++) publish(patch());
await serveFolder(join(work, 'source'), SOURCE_PORT);
const root = join(work, 'root/game');
for (const [path, version] of builds[2].tree) put(join(root, path), contentOf(path, version));
put(join(root, 'saves/first.sav'), 'the first save');
put(join(root, 'settings.ini'), 'loud=1');
put(join(root, 'mods/of-nobody.pak'), 'a mod that nobody knows');
await startServer(PORT, { roots: join(work, 'root') });
const page = await openPage({
  ...{ profile: join(work, 'profile'), viewport: { width: 1280, height: 1000 } },
  baseURL: `http://127.0.0.1:${PORT}`,
});
page.setDefaultTimeout(900_000);
const press = (name) => page.getByRole('button', { name }).first().click();
const follow = (name) => page.getByRole('link', { name }).first().click();
const main = (name) => page.getByRole('main', { name }).waitFor();
const top = async (name) => {
  await page.getByRole('banner').getByRole('link', { name, exact: true }).click();
  await main(name);
};
const stage = async (name) => {
  await page
    .getByRole('navigation', { name: 'Stages' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click();
  await main(name);
};
const allJobs = () =>
  page.evaluate(async () => {
    const db = await new Promise((resolve, reject) => {
      const open = indexedDB.open('regressum');
      open.onsuccess = () => resolve(open.result);
      open.onerror = () => reject(open.error);
    });
    const ask = db.transaction('jobs').objectStore('jobs').getAll();
    await new Promise((resolve) => (ask.onsuccess = resolve));
    db.close();
    return ask.result.map(({ kind, state, startedAt, endedAt, failure }) => ({
      kind,
      state,
      startedAt,
      endedAt,
      failure,
    }));
  });
const wasChecked = async (since) =>
  (await allJobs()).some(({ kind, state, startedAt }) => kind === 'survey' && state === 'done' && startedAt >= since);
/** Waits until no job is under way. @throws with what failed, and what was done before */
async function settled() {
  for (let calm = 0; calm < 3;) {
    const all = (await allJobs()).sort((a, b) => a.startedAt - b.startedAt);
    if (all.some(({ state }) => state === 'failed')) throw new Error(`A job failed: ${JSON.stringify(all.slice(-12))}`);
    calm = all.some(({ state }) => ['waiting', 'running', 'paused'].includes(state)) ? 0 : calm + 1;
    await page.waitForTimeout(60);
  }
}

await page.goto(`http://127.0.0.1:${PORT}/games#token=${TOKEN}`);
await page.getByLabel('File of a game').setInputFiles(join(work, 'game.json'));
await page.getByLabel('Address').fill(`http://127.0.0.1:${SOURCE_PORT}/index.json`);
await press('Add this address');
await page.getByText('3 builds, 1 depot known.').waitFor();
const game = page.url();
await page.getByLabel('Subfolder').fill('game');
await press('Add game');
await press('Check every file in game');
await page.getByRole('heading', { name: '3.0', exact: true }).waitFor();
await settled();
let folder = onDrive(root);
if (way === 'browser') {
  await page.getByTitle('All folders; add another').click();
  await page.getByText('Copy or move', { exact: true }).click();
  await press('Copy to the browser disk');
  await page.waitForURL((url) => !url.pathname.endsWith('/folders'));
  await settled();
  folder = inBrowser(page, new URL(page.url()).pathname.split('/')[1]);
}
const home = new URL(page.url()).pathname.split('/')[1];

/** What a person decides, and what they have. */
const OWN = /^(saves\/|settings\.ini$|mods\/)/;
const state = { profile: 'First', builds: { First: 3, Calm: 3 }, saves: {}, held: false };
const digestsOf = (build) =>
  [...builds[build - 1].tree].map(([path, version]) => [path, sha256(contentOf(path, version))]);
const ownOf = (digests) => new Map([...digests].filter(([path]) => OWN.test(path)));
function differ(found, wanted) {
  const paths = new Set([...found.keys(), ...wanted.keys()]);
  return [...paths].filter((path) => found.get(path) !== wanted.get(path));
}
/** Holds the folder against what was promised. */
async function promise(what, wanted) {
  counts[what] = (counts[what] ?? 0) + 1;
  const found = await folder.digests();
  const paths = differ(found, wanted);
  if (paths.length > 0) wrong.push({ what, paths: paths.slice(0, 3), files: paths.length });
  // What the program believes of the folder is what lies there, as long as it says that it is fresh.
  const believed = await believes();
  const other = believed && differ(new Map(believed.map(([path, key]) => [path, key.slice(-64)])), found);
  if (other && other.length > 0)
    wrong.push({ what: `survey after ${what}`, paths: other.slice(0, 3), files: other.length });
}
/** Path and content key of each file as it was surveyed; undefined where the program knows that the folder has changed since. */
const believes = () =>
  page.evaluate(async (home) => {
    const db = await new Promise((resolve) => {
      const open = indexedDB.open('regressum');
      open.onsuccess = () => resolve(open.result);
    });
    const get = (store, key) =>
      new Promise((resolve) => {
        const ask = db.transaction(store).objectStore(store).get(key);
        ask.onsuccess = () => resolve(ask.result);
      });
    const install = await get('installs', home);
    const survey = await get('surveys', [home, install.tree]);
    db.close();
    if (!survey || survey.at < install.changedAt) return undefined;
    const column = (value) => (typeof value === 'string' ? value.split('\u0000') : value);
    const keys = column(survey.keys);
    return column(survey.paths).map((path, i) => [path, keys[i]]);
  }, home);
const whole = (build, own) => new Map([...digestsOf(build), ...own]);

async function check() {
  await stage('Survey');
  await press('Check changed files only');
  await settled();
}
/** Lays a build down in the profile that counts. */
async function layDown(build) {
  const { label } = builds[build - 1];
  const own = ownOf(await folder.digests());
  await page.goto(`/${home}/choose?build=${encodeURIComponent(label)}`);
  await main('Choose');
  const select = page.getByRole('button', { name: new RegExp(`^(Select build|Build) ${label.replace('.', '\\.')}`) });
  await select.first().waitFor();
  if (await page.getByRole('button', { name: `Select build ${label}` }).isVisible())
    await press(`Select build ${label}`);
  await page.getByRole('button', { name: `Build ${label} is selected` }).waitFor();
  await stage('Fetch');
  const fetchAll = page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ });
  await page
    .getByText(/Everything for .* is on this disk|^Fetch [\d.]+ .?B of/)
    .first()
    .waitFor();
  if (await fetchAll.isVisible()) {
    await fetchAll.click();
    await settled();
  }
  await stage('Assemble');
  const radio = page.getByRole('radiogroup').getByText('In place');
  const lay = page.getByRole('button', { name: new RegExp(`^Lay down ${label.replace('.', '\\.')}`) });
  await page
    .getByText(/byte for byte|^Lay down/)
    .first()
    .waitFor();
  if (await lay.isVisible()) {
    if (next() < 0.7 && (await radio.isVisible())) await radio.click();
    await lay.first().click();
    await settled();
  }
  state.builds[state.profile] = build;
  await promise('lay down', whole(build, own));
}
async function switchProfile() {
  const to = state.profile === 'First' ? 'Calm' : 'First';
  const digests = await folder.digests();
  state.saves[state.profile] = [...digests].filter(([path]) => path.startsWith('saves/'));
  state.along ??= {};
  state.along[state.profile] = [...digests].filter(([path]) => path.startsWith('mods/'));
  await page.goto(`/${home}/profiles`);
  await main('Profiles');
  await follow(new RegExp(`^${to}`));
  const button = page.getByRole('button', { name: new RegExp(`^Switch to ${to}`) });
  await button.and(page.locator(':enabled')).waitFor();
  await button.click();
  await settled();
  // One that was never there before begins with what lies there.
  const saves = state.saves[to] ?? state.saves[state.profile];
  const along = state.along[to] ?? state.along[state.profile];
  const settings = [...digests].filter(([path]) => path === 'settings.ini');
  state.profile = to;
  await promise('switch', whole(state.builds[to], [...saves, ...along, ...settings]));
}
async function hold() {
  const { label } = builds[state.builds[state.profile] - 1];
  const before = await folder.digests();
  await stage('Hold');
  await press(new RegExp(`^Hold ${label.replace('.', '\\.')}`));
  await page.getByText('Nothing has drifted.').waitFor();
  for (let i = upTo(3); i >= 0; i--) {
    const path = one([...builds[state.builds[state.profile] - 1].tree.keys()]);
    if (next() < 0.3) await folder.remove(path).catch(() => undefined);
    else await folder.write(path, bytesOf(`spoilt ${next()}`, 3000));
  }
  // What others do is noticed by itself, perhaps before all of it is done: then it is checked once more.
  const done = Date.now();
  do {
    await settled();
    await press(/against the sheet$/);
    await settled();
  } while (!(await wasChecked(done)));
  await page.getByText(/drifted from the sheet/).waitFor();
  await press(/^Put \d+ files? right/);
  await page.getByText('Nothing has drifted.').waitFor();
  await settled();
  await promise('hold and repair', before);
  await press(/^Release the hold/);
  await page.getByText('Not held').first().waitFor();
  await settled();
  await promise('release', before);
}
async function keepAndPutBack() {
  const before = await folder.digests();
  await top('Keepsakes');
  await press(/^Keep \d+ files? as they are now/);
  await settled();
  await folder.write('saves/first.sav', `lost ${next()}`);
  await folder.write('settings.ini', `loud=${upTo(100)}`);
  await page.reload();
  await main('Keepsakes');
  await page.getByText('Kept by hand').first().click();
  await press(/^Put \d+ files? back/);
  await settled();
  await promise('put back', before);
  await check();
}
async function undo() {
  const before = await folder.digests();
  await layDown(1 + upTo(builds.length));
  await top('History');
  const back = page.getByRole('button', { name: /^Take (it back|back \d+ changes?)$/ }).first();
  await page.getByText(/, newest first$/).waitFor();
  if (!(await back.isVisible()) || !(await back.isEnabled())) return;
  const changed = differ(await folder.digests(), before).length > 0;
  if (!changed) return;
  await back.click();
  await settled();
  await promise('take back', before);
  // What the folder is again is what the profile wants from now on.
  const build = builds.findIndex((_, i) => differ(before, whole(i + 1, ownOf(before))).length === 0) + 1;
  if (build > 0) await layDown(build);
}
async function storefront(build) {
  const had = await folder.digests();
  for (const [path, version] of builds[build - 1].tree) {
    const bytes = contentOf(path, version);
    if (had.get(path) !== sha256(bytes)) await folder.write(path, bytes);
  }
  for (const path of had.keys()) if (!OWN.test(path) && !builds[build - 1].tree.has(path)) await folder.remove(path);
  await check();
  await promise('storefront', whole(build, ownOf(had)));
}
/** Holds what History says lies on the drive against what lies there, and deletes what is past its time. */
async function evening() {
  await top('Keepsakes');
  await page.getByLabel('How many').selectOption('5');
  const past = page.getByRole('button', { name: /^Delete \d+ keepsakes?$/ });
  await page.getByText(/past their time|None is past its time/).waitFor();
  if (await past.isVisible()) {
    await past.click();
    await settled();
  }
  await top('History');
  await page.getByText(/, newest first$/).waitFor();
  for (;;) {
    const keeping = page.locator('[data-item][data-state]').filter({ hasText: /keeps [\d.]+ .?B/ });
    if ((await keeping.count()) <= KEPT_CHANGES) break;
    const oldest = await keeping.last().getAttribute('href');
    await keeping.last().click();
    await press(/^Delete what it keeps/);
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Delete what it keeps/ })
      .click();
    await settled();
    await keeping.and(page.locator(`[href="${oldest}"]`)).waitFor({ state: 'detached' });
  }
  const unused = page.getByRole('button', { name: /unused file/ });
  if (await unused.isVisible()) wrong.push({ what: 'orphaned', text: await unused.textContent() });
  const real = await folder.sum();
  const told = Number(
    (
      await page
        .getByTitle(/^[\d,]+ files?$/)
        .last()
        .getAttribute('title')
    ).replace(/\D/g, ''),
  );
  if (told !== real.files) wrong.push({ what: 'sum on the drive', told, found: real.files });
  return real.bytes;
}

await layDown(3);
await page.goto(`/${home}/profiles`);
await main('Profiles');
await page.getByLabel('Name', { exact: true }).first().fill('Calm');
await page.getByRole('button', { name: /^Make/ }).first().click();
await page.getByRole('link', { name: /^Calm/ }).first().waitFor();

const session = await page.context().newCDPSession(page);
const stores = [];
const memories = [];
const start = performance.now();
for (let day = 0; day < DAYS && wrong.length === 0; day++) {
  if (next() < 0.25) {
    publish(patch());
    await page.goto(game);
    await press('Ask all again');
    await page.getByText(`${builds.length} builds, 1 depot known.`).waitFor();
    await page.goto(`/${home}/survey`);
    await main('Survey');
    if (next() < 0.6) await storefront(builds.length);
    await layDown(next() < 0.5 ? builds.length : 1 + upTo(builds.length));
  }
  // An evening of play.
  await folder.write(`saves/${one(['first', 'second', 'third'])}.sav`, bytesOf(`played ${next()}`, 2000));
  await check();
  for (let acts = 1 + upTo(2); acts > 0; acts--) await one([hold, keepAndPutBack, switchProfile, undo])();
  stores.push(await evening());
  if (stores.at(-1) > mayLie(day)) wrong.push({ what: 'grown', found: stores.at(-1), most: mayLie(day) });
  await session.send('HeapProfiler.collectGarbage');
  memories.push(pageMemory());
  if (process.env.SOAK_TELL)
    console.error(
      `day ${day + 1}, ${builds.length} builds, ${Math.round(stores.at(-1) / 1e3)} kB, ${memories.at(-1)} MB`,
    );
}
const fifth = Math.max(1, Math.floor(stores.length / 5));
const mean = (some) => some.reduce((sum, n) => sum + n, 0) / Math.max(1, some.length);
const grown = (some) => Number((mean(some.slice(-fifth)) / mean(some.slice(fifth, 2 * fifth))).toFixed(2));
const told = {
  ...{ bench: 'soak', way, days: stores.length, seed: Number(seed), builds: builds.length, acts: counts },
  ...{ wrong, storeGrown: grown(stores), memoryGrown: grown(memories) },
  ...{ lastStoreMB: Number((stores.at(-1) / 1e6).toFixed(1)), lastMemoryMB: memories.at(-1) },
  secondsADay: Number(((performance.now() - start) / 1000 / stores.length).toFixed(1)),
};
tell(told);
process.exitCode = wrong.length === 0 && told.memoryGrown < 1.5 ? 0 : 1;
end();
