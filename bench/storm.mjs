import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { extname, join, resolve } from 'node:path';
import { build } from 'vite';
import { chance } from './chance.mjs';
import {
  addBuild,
  end,
  freePort,
  openPage,
  put,
  serveFolder,
  sha256,
  smallDrive,
  startServer,
  tell,
  TOKEN,
  workFolder,
} from './kit.mjs';
import { BrowserGround, contentsOfBrowser, DiskGround, keyOf } from './storm-ground.mjs';

/*
 * node bench/storm.mjs [ACTS] [SEED] [served|browser|picked]
 * A person, a storefront, a game and accidents at one folder, for ACTS (150) acts in any order: laying down, playing,
 * updates from outside, undoing, making again, deleting what is kept, keepsakes, profiles, holding, putting right, cleaning up; a
 * hand in the files, a second browser, a clock that is ahead, a folder that is gone for a while, a server or a page that is killed at
 * any moment. The acts are those that the pages offer (storm-page.ts), in a real browser against the built server.
 * The folder is one of this machine that the server serves, one on the browser's own disk, or one that was picked; only a served one has
 * two browsers, the others two tabs of one.
 * After each act an oracle that shares no code with the program reads the folder: `falseClaims`, what the pages say and the disk does
 * not; `lost`, contents that the player has made, has not deleted, and that lie nowhere any more; `strange`, contents of nobody in the
 * game's folder; `deadEnds`, states from which nothing that is offered leads out. Prints one line of JSON; ends with 1 unless all
 * four are 0. Needs a build and Chromium.
 */
const [wantedActs = '150', seed = String(Date.now() % 100_000), way = 'served'] = process.argv.slice(2);
if (!['served', 'browser', 'picked'].includes(way)) throw new Error(`${way} is no way: served, browser or picked`);
const ACTS = Number(wantedActs);
const { next, upTo, one } = chance(seed);
const chances = () => Array.from({ length: 12 }, next);

const work = workFolder('storm');
// A drive that can be filled, where there may be one.
const drive = way === 'browser' ? undefined : smallDrive('storm-drive', 16 << 20);
const roots = join(drive ?? work, 'root');

/* The world: a made-up game of four builds and three mods, at a source of its own. */

const RULES = {
  program: 'game.prog',
  modsFolder: 'mods',
  loadOrder: 'mods/list.txt',
  own: [
    { folder: 'saves', kind: 'saves' },
    { folder: 'shots', kind: 'content' },
    { folder: 'user.ini', kind: 'settings' },
  ],
  record: { file: 'state.json', form: 'json', at: 'updates', stops: 'never', goes: 'always', build: 'build' },
};
const LABELS = ['1.0', '1.1', '2.0', '3.0'];
const textOf = (words, length = 300) => Buffer.from(`${words}\n`.repeat(Math.ceil(length / (words.length + 1))));

/** Of each build its files, by path. */
const builds = new Map();
for (const [number, label] of LABELS.entries()) {
  const files = new Map([['game.prog', textOf(`program ${label}`)]]);
  for (let i = 0; i < 24; i++) {
    // Some are the same in all builds, some come or go.
    if (i % 8 === 7 && number < 2) continue;
    if (i % 8 === 6 && number > 2) continue;
    files.set(`data/d${i % 3}/file-${i}.bin`, textOf(`file ${i} ${i % 2 === 0 ? 'same' : number}`, 400 + i * 150));
  }
  builds.set(label, files);
}
/** Of each mod and release its files, by path. */
const releases = new Map();
const mods = ['lamp', 'rope', 'sail'].map((id, m) => ({
  ...{ id, name: `${id} mod`, author: 'A Maker', kind: 'data', lookedAfter: true, summary: '' },
  releases: ['1', '2'].map((version, v) => {
    const files = new Map(
      Array.from({ length: 2 + m }, (_, i) => [`mods/${id}/part-${i}.dat`, textOf(`${id} ${version} ${i}`)]),
    );
    releases.set(`${id} ${version}`, files);
    return {
      ...{ version, date: `2026-0${v + 1}-01`, builds: v === 0 ? ['1.0', '1.1'] : ['2.0', '3.0'] },
      files: [...files].map(([path, bytes]) => ({
        ...{ path, size: bytes.length, sha256: sha256(bytes), href: `mods/${id}-${version}/${path.split('/').at(-1)}` },
      })),
    };
  }),
}));

const game = { format: 'regressum-game', version: 1, id: 'storm', title: 'Storm', rules: RULES, sources: [] };
put(join(work, 'game.json'), JSON.stringify(game));
for (const [number, label] of LABELS.entries()) {
  const from = join(work, 'making');
  rmSync(from, { recursive: true, force: true });
  for (const [path, bytes] of builds.get(label)) put(join(from, path), bytes);
  addBuild(work, label, `2026-0${number + 1}-01`, { base: from }, '--with-files', '--plain');
}
const source = join(work, 'source');
put(join(source, 'mods.json'), JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods }));
for (const mod of mods)
  for (const { version } of mod.releases)
    for (const [path, bytes] of releases.get(`${mod.id} ${version}`))
      put(join(source, 'mods', `${mod.id}-${version}`, path.split('/').at(-1)), bytes);

/* The oracle: what lies on the disk, read anew, and what the player has made. */

let ground;

/** What the player has made and not given up, by its content: where it was put. */
const owned = new Map();
/** All that the player has ever made: undoing and keepsakes may bring back what they gave up. */
const everMade = new Set();
let made = 0;

/** The player, or the game that they play, writes a file: what was there is given up by that, where it was theirs. */
async function playerWrites(path, words, options) {
  const before = (await ground.files()).get(path);
  const bytes = textOf(`${words} ${++made}`, 120);
  // What is locked a game cannot write either.
  if (!(await ground.write(path, bytes, options))) return;
  if (before !== undefined && owned.get(before) === path) owned.delete(before);
  owned.set(keyOf(bytes), path);
  everMade.add(keyOf(bytes));
}

const ofGame = new Set([...builds.values(), ...releases.values()].flatMap((files) => [...files.values()].map(keyOf)));
const isOwn = (path) => path.startsWith('saves/') || path.startsWith('shots/') || path === 'user.ini';

const found = { falseClaims: new Map(), lost: [], strange: [], deadEnds: [] };
let act = '';
function claimIsFalse(kind, detail) {
  found.falseClaims.set(kind, (found.falseClaims.get(kind) ?? 0) + 1);
  console.error(`${act}: false, ${kind}: ${detail}`);
}

/** Files of a build and of mods that the disk has not, or otherwise. */
function wrongOf(disk, label, wanted = [], withStrays = true) {
  const files = new Map([...builds.get(label)]);
  for (const [mod, version] of wanted)
    for (const [path, bytes] of releases.get(`${mod} ${version}`) ?? []) files.set(path, bytes);
  const wrong = [...files].filter(([path, bytes]) => disk.get(path) !== keyOf(bytes)).map(([path]) => path);
  if (!withStrays) return wrong;
  const strays = [...disk].filter(
    ([path, key]) => !files.has(path) && path !== RULES.loadOrder && !isOwn(path) && ofGame.has(key),
  );
  return [...wrong, ...strays.map(([path]) => path)];
}

async function holdAgainst(claims) {
  const disk = await ground.files();
  const { fresh, likeliest, departures, laid, target, held, assemble, proof } = claims;
  if (fresh && likeliest !== undefined && departures !== undefined) {
    const really = [...builds.get(likeliest)].filter(([path, bytes]) => disk.get(path) !== keyOf(bytes));
    if (really.length !== departures)
      claimIsFalse(
        'departures',
        `${departures} told of ${likeliest}, ${really.length}: ${really.map(([path]) => path)}`,
      );
  }
  const laidDown = (kind, label, wanted, withStrays) => {
    const wrong = wrongOf(disk, label, wanted, withStrays);
    if (wrong.length > 0) claimIsFalse(kind, `${label}: ${wrong.slice(0, 4)}`);
  };
  if (laid) laidDown('laid', target.build, target.releases);
  if (assemble?.fresh && assemble.laid) laidDown('assemble', target.build, target.releases);
  if (held?.drift === 0) laidDown('held', held.build, claims.heldReleases);
  // What lies there besides is no part of a proof.
  if (proof?.fresh && proof.wrong === 0)
    laidDown('proof', proof.build, proof.build === held?.build ? claims.heldReleases : target?.releases, false);
  for (const rows of claims.keepsakes)
    for (const { path, key, does } of rows) {
      const now = disk.get(path);
      const is = now === undefined ? 'returns' : now === key ? 'nothing' : 'replaces';
      if (fresh && is !== does) claimIsFalse('keepsake', `${path} ${does}, and is ${is}`);
    }
  for (const [path, key] of disk)
    if (!ofGame.has(key) && !everMade.has(key) && path !== RULES.loadOrder && path !== RULES.record.file)
      found.strange.push(`${act}: ${path}`);
  const all = await ground.everything();
  for (const [key, path] of owned)
    if (!all.has(key)) {
      owned.delete(key);
      found.lost.push(`${act}: ${path}`);
      console.error(`${act}: lost ${path}`);
    }
}

/* The stage: the built server, and one or two browsers. */

const port = await freePort();
const sourceServer = await serveFolder(source);
const sourceAddress = `http://127.0.0.1:${sourceServer.address().port}`;
let server;
const startAgain = async () => (server = await startServer(port, { roots }));

await build({
  ...{ root: resolve('.'), configFile: false, logLevel: 'error', base: '/storm/' },
  resolve: { alias: { '~': resolve('app') } },
  worker: { format: 'es' },
  build: {
    ...{ outDir: join(work, 'page'), target: 'es2023', minify: false, copyPublicDir: false },
    rollupOptions: {
      ...{ input: resolve('bench/storm-page.ts'), preserveEntrySignatures: 'strict' },
      output: { entryFileNames: 'page.js' },
    },
  },
});
const TYPES = { '.js': 'text/javascript', '.wasm': 'application/wasm', '.css': 'text/css' };

/** Lets pages read and change the folders that they are given, as a person would who allows it. */
function allowFolders(profile, origin) {
  const allowed = { [`${origin},*`]: { setting: 1 } };
  const exceptions = { file_system_write_guard: allowed, file_system_read_guard: allowed };
  // Without a network the browser waits five seconds for what its maker says of a file that is written.
  const preferences = { safebrowsing: { enabled: false }, profile: { content_settings: { exceptions } } };
  put(join(profile, 'Default/Preferences'), JSON.stringify(preferences));
}

class Browser {
  constructor(context) {
    this.context = context;
  }
  static async open(name) {
    const profile = join(work, name);
    const origin = `http://127.0.0.1:${port}`;
    if (way === 'picked') allowFolders(profile, origin);
    const first = await openPage({ profile, baseURL: origin });
    const browser = new Browser(first.context());
    await browser.context.route('**/storm/**', (route) => {
      const { pathname } = new URL(route.request().url());
      if (pathname === '/storm/') {
        const body = '<!doctype html><script type="module" src="/storm/page.js"></script>';
        return route.fulfill({ contentType: 'text/html', body });
      }
      const file = join(work, 'page', pathname.slice('/storm/'.length));
      return route.fulfill({ contentType: TYPES[extname(file)] ?? 'text/plain', body: readFileSync(file) });
    });
    await browser.openPage();
    return browser;
  }
  /** Another tab of it. */
  async tab() {
    const tab = new Browser(this.context);
    await tab.openPage();
    return tab;
  }
  async openPage() {
    this.page = await this.context.newPage();
    this.page.on('pageerror', (error) => console.error(`page: ${error.message}`));
    await this.page.goto('/storm/');
    await this.page.waitForFunction(() => globalThis.storm !== undefined);
    await this.page.evaluate((token) => globalThis.storm.knows(token), TOKEN);
  }
  async kill() {
    await this.page.close();
    await this.openPage();
  }
  /** Drops a real folder on the page, as a person does who gives it one. */
  async drop(path) {
    const session = await this.context.newCDPSession(this.page);
    const data = { items: [], files: [path], dragOperationsMask: 1 };
    for (const type of ['dragEnter', 'dragOver', 'drop'])
      await session.send('Input.dispatchDragEvent', { type, x: 100, y: 100, data });
    await session.detach();
  }
  ask(what, ...parameters) {
    return this.page.evaluate(([name, given]) => globalThis.storm[name](...given), [what, parameters]);
  }
}

let round = 0;
/** A fresh folder of this machine, which the storefront has brought to its newest build. @returns its name */
function newFolder() {
  const name = `game-${++round}`;
  const folder = join(roots, name);
  for (const [path, bytes] of builds.get(LABELS.at(-1))) put(join(folder, path), bytes);
  for (const [path, bytes] of releases.get('rope 1')) put(join(folder, path), bytes);
  put(join(folder, RULES.loadOrder), 'rope\n');
  put(join(folder, RULES.record.file), JSON.stringify({ updates: 'always', build: LABELS.at(-1), since: 1 }, null, 2));
  return name;
}

mkdirSync(roots, { recursive: true });
const gameText = JSON.stringify(game);
await startAgain();
const first = await Browser.open('first');
// What a served folder keeps another browser finds with it; of the others much lies in the browser that knows them.
const browsers = [first, way === 'served' ? await Browser.open('second') : await first.tab()];
const ids = new Map();
/** A new game's folder, which all browsers know. */
async function begin() {
  owned.clear();
  const name = newFolder();
  const setUp = (browser) => browser.ask('setUp', gameText, sourceAddress, TOKEN, way, name);
  if (way === 'served') for (const browser of browsers) ids.set(browser, await setUp(browser));
  else {
    if (way === 'picked') await first.drop(join(roots, name));
    const id = await setUp(first);
    for (const browser of browsers) ids.set(browser, id);
  }
  const elsewhere = way === 'picked' ? () => contentsOfBrowser(first.page) : undefined;
  ground =
    way === 'browser'
      ? new BrowserGround(() => first.page, ids.get(first))
      : new DiskGround(join(roots, name), elsewhere);
  for (const browser of browsers) await browser.ask('still', ids.get(browser));
  await playerWrites('saves/first.sav', 'a save');
  await playerWrites('user.ini', 'volume = 3');
}
await begin();

/* Who does what. */

/** What others do between two acts, behind the program's back. */
const OUTSIDE = {
  async play() {
    await playerWrites(`saves/${one(['first', 'second', 'third'])}.sav`, 'a save', { ahead: next() < 0.1 });
    if (next() < 0.5) await playerWrites(`shots/s${upTo(1000)}.png`, 'a picture');
    if (next() < 0.3) await playerWrites('user.ini', 'volume');
  },
  async update() {
    const label = one(LABELS);
    const before = await ground.files();
    for (const [path, bytes] of builds.get(label)) {
      // What is locked stays.
      if ((await ground.write(path, bytes)) && owned.get(before.get(path)) === path) owned.delete(before.get(path));
    }
    for (const [path, key] of before)
      if (path.startsWith('data/') && !builds.get(label).has(path) && ofGame.has(key)) await ground.remove(path);
    try {
      const record = JSON.parse(await ground.textOf(RULES.record.file));
      const now = Buffer.from(JSON.stringify({ ...record, build: label, since: ++made }, null, 2));
      await ground.write(RULES.record.file, now);
    } catch {
      // A record that is not there, or is none, is left.
    }
  },
  hand: () => playerWrites(one([...builds.get('2.0').keys()]), 'changed by hand'),
  'new-mod': () => playerWrites(`mods/own-${upTo(5)}/thing.dat`, 'a mod of nobody'),
};

/** What may befall an act that is going on, until it is mended again. */
const ACCIDENTS = {
  async server(browser) {
    server.kill('SIGKILL');
    await startAgain();
    await browser.ask('knows', TOKEN);
  },
  async page(browser) {
    await browser.kill();
  },
  ...(way === 'browser' ? {} : { folder: () => ground.vanish() }),
  ...(way === 'browser' || drive !== undefined
    ? {
        async full(_browser, going) {
          const free = await ground.fill(upTo(40_000));
          await going;
          await free();
        },
      }
    : {}),
};

const PERSON = Object.entries({
  ...{ survey: 6, 'survey-all': 2, choose: 8, fetch: 8, 'lay-down': 12, hold: 5, release: 4, 'put-right': 5 },
  ...{ back: 10, on: 8, 'let-go': 4, keepsake: 4, 'put-back': 5, profile: 5, clean: 3 },
}).flatMap(([kind, weight]) => Array(weight).fill(kind));

/** Leads out of what has failed, by what is offered. @returns whether that is possible */
async function leadOut(browser) {
  const id = ids.get(browser);
  for (let tries = 0; tries < 3; tries++) {
    const [job] = await browser.ask('failed', id);
    if (job === undefined) break;
    await browser.ask('act', 'survey', id, chances());
    const went = await browser.ask(next() < 0.6 ? 'resume' : 'cancel', job);
    if (!went.ok && tries > 0) await browser.ask('cancel', job);
  }
  for (const set of (await browser.ask('claims', id)).unfinished) {
    const [first, other] = next() < 0.5 ? ['on', 'back'] : ['back', 'on'];
    const went = await browser.ask('settle', id, set, first, chances());
    if (!went.ok) await browser.ask('settle', id, set, other, chances());
  }
  return (await browser.ask('claims', id)).unfinished.length === 0;
}

const counts = new Map();
const count = (kind) => counts.set(kind, (counts.get(kind) ?? 0) + 1);

/** One act of a person, with an accident now and then. @returns whether it was offered */
async function personActs(browser, kind, accident) {
  const id = ids.get(browser);
  const going = browser
    .ask('act', kind, id, chances())
    .catch((error) => ({ ok: false, failure: { code: String(error) } }));
  if (accident) {
    await Promise.race([going, new Promise((done) => setTimeout(done, upTo(400)))]);
    await ACCIDENTS[accident](browser, going);
  }
  const went = await going;
  if (went.ok && !went.offered && !accident) return false;
  for (const key of went.gone ?? []) owned.delete(key);
  await browser.ask('still', id);
  if (!went.ok && process.env.STORM_TELLS) console.error(`${act}: ${JSON.stringify(went.failure)}`);
  if (await leadOut(browser)) return true;
  found.deadEnds.push(`${act}: ${went.failure?.code}`);
  console.error(`${act}: dead end, ${JSON.stringify(went.failure)}`);
  await begin();
  return true;
}

const began = performance.now();
for (let i = 0; i < ACTS; i++) {
  const browser = next() < 0.85 ? browsers[0] : browsers[1];
  if (next() < 0.3) {
    const kind = one(Object.keys(OUTSIDE));
    act = `${i} ${kind}`;
    await OUTSIDE[kind]();
    count(kind);
  } else {
    for (;;) {
      const kind = one(PERSON);
      const accident = next() < 0.08 ? one(Object.keys(ACCIDENTS)) : undefined;
      act = `${i} ${kind}${accident ? ` (${accident})` : ''}`;
      if (!(await personActs(browser, kind, accident))) continue;
      count(kind);
      break;
    }
  }
  // As a page does by itself, soon after somebody has come back to it.
  await browser.ask('act', 'look', ids.get(browser), []);
  await browser.ask('still', ids.get(browser));
  await holdAgainst(await browser.ask('claims', ids.get(browser)));
}

const falseClaims = [...found.falseClaims.values()].reduce((sum, n) => sum + n, 0);
tell({
  ...{ bench: 'storm', way, seed, acts: ACTS, seconds: Math.round((performance.now() - began) / 1000) },
  ...{ falseClaims, byKind: Object.fromEntries(found.falseClaims), lost: found.lost.length },
  ...{ strange: found.strange.length, deadEnds: found.deadEnds.length, kinds: Object.fromEntries(counts) },
});
process.exitCode = falseClaims + found.lost.length + found.strange.length + found.deadEnds.length > 0 ? 1 : 0;
end();
