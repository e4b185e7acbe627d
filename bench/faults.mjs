import { spawnSync } from 'node:child_process';
import { chmodSync, mkdirSync, readFileSync, rmSync, statfsSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { bundle } from '../scripts/bundle.mjs';
import { chance } from './chance.mjs';
import { freePort, load, put, sha256, startServer, tell, TOKEN, workFolder } from './kit.mjs';

/*
 * node bench/faults.mjs [N] [SEED] [child | server | browser]
 * Cuts N (30) random change sets at random points, goes on or back, and counts what is not as it was promised. Four cuts in
 * five end a process that runs the engine on a real folder: by SIGKILL at a random change of the disk or moment, by a disk
 * that refuses, or by one that is full (a small tmpfs where one can be mounted); the rest end a whole server, or a whole browser on its own disk. Works in
 * TMPDIR, needs a build and Chromium. Prints one line of JSON; ends with 1 unless nothing was lost, orphaned or wrong.
 *
 * node bench/faults.mjs --store [N] [SEED]
 * N (500) random change sets, undos, lettings go, keeps and drops on one folder, half of them cut off: after each the sum of
 * the list of what lies there is held against the disk's own.
 */
if (process.argv[2] === '--store') await sumsOfStore(...process.argv.slice(3));

async function sumsOfStore(acts = '500', seed = '1') {
  const folder = workFolder('sums');
  const { randomActs } = await load(folder, 'bench/store-node.ts');
  mkdirSync(join(folder, 'game'));
  const told = await randomActs(join(folder, 'game'), Number(acts), Number(seed));
  tell({ bench: 'faults --store', seed: Number(seed), ...told });
  process.exit(told.wrongSums + told.orphaned === 0 ? 0 : 1);
}

const [wanted = '30', seed = '1', only] = process.argv.slice(2);
const N = Number(wanted);
const STORE = 'regressum-store';
const PORT = await freePort();
const work = workFolder('faults');

const { next, upTo, one } = chance(seed);

const PIECE = 1 << 20;
function keyOf(text) {
  const bytes = Buffer.from(text);
  const pieces = [];
  for (let at = 0; at === 0 || at < bytes.length; at += PIECE) pieces.push(sha256(bytes.subarray(at, at + PIECE)));
  return `${bytes.length}:${pieces.join('')}`;
}

/** Texts of many sizes, each another one. */
let texts = 0;
const someText = (most = 5000) => `${++texts} `.repeat(one([1, 1, 5, 200, 5000, next() < 0.1 ? most : 50]));

/** A folder, a set of steps that can be made on it, and what lies there before and after. */
function scenario(number) {
  const id = `s${number}`;
  const before = new Map();
  const count = 3 + upTo(25);
  for (let i = 0; i < count; i++)
    before.set(one(['', 'data/', 'data/deep/', 'mods/']) + `f${i}.dat`, someText(300_000));
  const after = new Map(before);
  const steps = [];
  const flagged = new Set();
  if (next() < 0.5) {
    // A tree beside: some as they are, some left out, some new, and the two are exchanged.
    for (const path of before.keys()) {
      if (next() < 0.2) after.delete(path);
      else steps.push({ do: 'copy', from: `trees/t1/${path}`, to: `trees/t2/${path}`, key: keyOf(before.get(path)) });
    }
    for (let i = upTo(6); i > 0; i--) {
      const [path, text] = [`fresh/n${i}.dat`, someText()];
      after.set(path, text);
      steps.push({ do: 'write', text, to: `trees/t2/${path}`, key: keyOf(text) });
    }
    const leaves = [...before].map(([path, text]) => [path, keyOf(text)]);
    steps.push({ do: 'exchange', from: 't1', to: 't2', leaves });
  } else {
    for (const [i, path] of [...before.keys()].entries()) {
      const [kind, at] = [next(), `trees/t1/${path}`];
      if (kind < 0.3) {
        const text = someText();
        const from = `staged/${id}/${i}.dat`;
        steps.push({ do: 'write', text, to: from, key: keyOf(text) });
        steps.push({ do: 'place', from, to: at, key: keyOf(text), before: keyOf(before.get(path)) });
        after.set(path, text);
      } else if (kind < 0.45) {
        steps.push({ do: 'take', path: at, key: keyOf(before.get(path)) });
        after.delete(path);
      } else if (kind < 0.6) {
        steps.push({ do: 'move', from: at, to: `trees/t1/moved/${i}.dat`, key: keyOf(before.get(path)) });
        after.set(`moved/${i}.dat`, before.get(path));
        after.delete(path);
      } else if (kind < 0.7) {
        steps.push({ do: 'flag', path: at, readOnly: true, before: false });
        flagged.add(path);
      }
    }
  }
  const picture = (files, flags = new Set()) =>
    JSON.stringify(
      [...files]
        .map(([path, text]) => [path, sha256(Buffer.from(text)) + (flags.has(path) ? ' read-only' : '')])
        .sort(),
    );
  return {
    set: { version: 1, id, at: 0, what: 'edit', facts: {}, steps },
    before,
    // Their bytes must be somewhere, whatever happens: before, what lay there; after, what came.
    contents: new Set([...before.values()].map((text) => sha256(Buffer.from(text)))),
    pictures: { back: picture(before), on: picture(after, flagged) },
  };
}

function filesBelow(folder) {
  const out = spawnSync('find', ['.', '-type', 'f'], { cwd: folder, maxBuffer: 1 << 26 }).stdout.toString();
  return out
    .split('\n')
    .filter(Boolean)
    .map((path) => path.slice(2))
    .sort();
}

/** All files of a folder with their SHA-256, and whether they are read-only. */
const linesOf = (folder) =>
  filesBelow(folder).map((path) => {
    const readOnly = (statSync(join(folder, path)).mode & 0o222) === 0 ? ' read-only' : '';
    return [path, sha256(readFileSync(join(folder, path))) + readOnly];
  });

/** What a store has for good: which tree counts, and what was done. */
const isToldOn = (path) => path === 'current.dat' || path.startsWith('history/');

/** What the three kinds of places have in common: to lay files out, to run a set until a cut, and to say what lies there. */
function realFolder(name) {
  const root = join(work, name);
  const pictureOf = () => {
    const lines = linesOf(root);
    return {
      game: JSON.stringify(lines.filter(([path]) => !path.startsWith(`${STORE}/`))),
      store: lines
        .map(([path]) => path)
        .filter((path) => path.startsWith(`${STORE}/`) && !isToldOn(path.slice(STORE.length + 1))),
      contents: new Set(lines.map(([, text]) => text.slice(0, 64))),
    };
  };
  return {
    root,
    layOut(files) {
      for (const [path, text] of files) put(join(root, path), text);
    },
    pictureOf,
    remove() {
      for (const path of filesBelow(root)) chmodSync(join(root, path), 0o644);
      rmSync(root, { recursive: true, force: true });
    },
  };
}

const CHILD = join(work, 'faults-child.mjs');

/** A disk that is soon full, where the system lets one be made. */
const SMALL_DISK = smallDisk(join(work, 'small-disk'));

function smallDisk(folder) {
  mkdirSync(folder);
  const { status } = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', folder], { stdio: 'ignore' });
  return status === 0 ? folder : undefined;
}

/** Leaves so many bytes of the small disk for the time of some work. */
function whileFull(left, run) {
  const filler = join(SMALL_DISK, 'filler');
  const { bavail, bsize } = statfsSync(SMALL_DISK);
  writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - left)));
  try {
    return run();
  } finally {
    rmSync(filler);
  }
}

/** Runs the engine in a process of its own, and cuts it as the order says; without a cut to its end. */
function inChild(folder, order, how = 'whole') {
  const file = join(work, 'order.json');
  const cut = {
    kill: { cut: 1 + upTo(order.set.steps.length * 3 + 8) },
    refuse: { refuse: 1 + upTo(order.set.steps.length * 3 + 8) },
  }[how];
  writeFileSync(file, JSON.stringify({ root: folder.root, ...order, ...cut }));
  const node = [process.execPath, CHILD, file];
  // Blocks of 512 bytes: a disk that takes no larger file, as a full one.
  const [command, ...args] =
    how === 'small' ? ['sh', '-c', `trap '' XFSZ; ulimit -f ${1 + upTo(40)}; exec "$@"`, '-', ...node] : node;
  const options = how === 'moment' ? { timeout: 80 + upTo(120), killSignal: 'SIGKILL' } : {};
  const runNow = () => spawnSync(command, args, options);
  const { stdout, status, stderr } = how === 'full' ? whileFull(upTo(2_000_000), runNow) : runNow();
  return stdout.toString().trim() || `status ${status} ${stderr.toString().slice(-300)}`;
}

const serve = (root) => startServer(PORT, { roots: root });

/** Asks a server to run a set, and kills it after some milliseconds; undefined lets it come to its end. */
async function onServer(folder, { set, way }, cutAfter) {
  const server = await serve(folder.root);
  try {
    const body = JSON.stringify({
      root: folder.root,
      folder: '',
      act: { act: way, set: set.id, ...(way === 'on' && { plan: set }) },
    });
    const headers = { 'x-regressum-token': TOKEN, Connection: 'close' };
    const asked = fetch(`http://127.0.0.1:${PORT}/served/change`, { method: 'POST', headers, body }).then((answer) =>
      answer.text(),
    );
    asked.catch(() => undefined);
    if (cutAfter !== undefined) {
      await new Promise((resolve) => setTimeout(resolve, cutAfter));
      return 'cut';
    }
    return (await asked).trim().split('\n').at(-1);
  } finally {
    server.kill('SIGKILL');
    await new Promise((resolve) =>
      server.exitCode !== null || server.signalCode ? resolve() : server.once('exit', resolve),
    );
  }
}

/** A browser with a disk of its own, which outlasts its end. */
async function browserPlace(name, page) {
  const profile = join(work, `profile-${name}`);
  const install = name;
  const open = async () => {
    const context = await chromium.launchPersistentContext(profile, {
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu'],
    });
    const tab = context.pages()[0];
    await tab.goto(page);
    return { context, ask: (ask) => tab.evaluate((what) => window.ask(what), ask) };
  };
  const once = async (ask) => {
    const { context, ask: put } = await open();
    try {
      return await put(ask);
    } finally {
      await context.close();
    }
  };
  return {
    layOut: (files) =>
      once({ do: 'lay-out', install, files: [...files].map(([path, text]) => [`trees/t1/${path}`, text]) }),
    async run({ set, way }, cutAfter) {
      if (cutAfter === undefined) return once({ do: 'run', install, set, way });
      const { context, ask } = await open();
      const asked = ask({ do: 'run', install, set, way });
      asked.catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, cutAfter));
      // All of the browser's processes at once, as when the machine is switched off.
      spawnSync('pkill', ['-9', '-f', profile]);
      await context.close().catch(() => undefined);
      return 'cut';
    },
    async pictureOf() {
      const { current, lines } = await once({ do: 'picture', install });
      const tree = `trees/${current}/`;
      const game = lines
        .filter(([path]) => path.startsWith(tree))
        .map(([path, text]) => [path.slice(tree.length), text]);
      return {
        game: JSON.stringify(game.sort()),
        store: lines.map(([path]) => path).filter((path) => !path.startsWith(tree) && !isToldOn(path)),
        contents: new Set(lines.map(([, text]) => text.slice(0, 64))),
      };
    },
    remove: () => rmSync(profile, { recursive: true, force: true }),
  };
}

const told = { cuts: 0, lost: 0, orphaned: 0, wrongTrees: 0, stuck: 0 };
const byKind = { child: 0, server: 0, browser: 0 };

async function check(place, { pictures, contents }, way, where) {
  const { game, store, contents: there } = await place.pictureOf();
  const lost = [...contents].filter((content) => !there.has(content));
  if (way === undefined) told.lost += lost.length;
  else if (game !== pictures[way]) {
    told.wrongTrees += 1;
    const [is, was] = [JSON.parse(game), JSON.parse(pictures[way])].map((lines) => lines.map((line) => line.join(' ')));
    const differs = [
      ...is.filter((line) => !was.includes(line)),
      ...was.filter((line) => !is.includes(line)).map((line) => `not ${line}`),
    ];
    console.error(`${where}: not the tree that was promised (${way}): ${differs.slice(0, 6).join('; ')}`);
  }
  if (way === undefined && lost.length > 0) console.error(`${where}: lost ${lost.length}`);
  return store;
}

async function settle(place, run, scene, where) {
  const way = one(['on', 'back']);
  const ended = await run({ set: scene.set, way });
  const unknown = /changes\/unknown/.test(ended);
  if (!/^ended$|"done":true/.test(ended) && !(unknown && way === 'back')) {
    told.stuck += 1;
    console.error(`${where}: ${way} ended with ${ended}`);
  }
  await check(place, scene, way, where);
  await run({ set: scene.set, way: 'let-go' });
  const left = await check(place, scene, way, where);
  told.orphaned += left.length;
  if (left.length > 0) console.error(`${where}: left ${left.slice(0, 5).join(', ')}`);
}

let page;
try {
  writeFileSync(CHILD, await bundle('bench/faults-child.ts', { forNode: true }));
  const script = await bundle('bench/faults-browser.ts');
  const html = `<!doctype html><script>
    const worker = new Worker('/worker.js', { type: 'module' });
    window.ask = (what) => new Promise((resolve) => { worker.onmessage = ({ data }) => resolve(data); worker.postMessage(what); });
  </script>`;
  const pages = createServer((request, answer) => {
    const isScript = request.url === '/worker.js';
    answer.setHeader('Content-Type', isScript ? 'text/javascript' : 'text/html');
    answer.end(isScript ? script : html);
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => pages.once('listening', resolve));
  page = `http://127.0.0.1:${pages.address().port}/`;
  for (let number = 0; told.cuts < N; number++) {
    const scene = scenario(number);
    // Four in five cut a process that does nothing else.
    const drawn = byKind.child <= 0.8 * told.cuts ? 'child' : one(['server', 'browser']);
    const kind = only ?? drawn;
    const where = `seed ${seed}, scene ${number} (${kind})`;
    const cuts = Math.min(N - told.cuts, 1 + upTo(kind === 'child' ? 5 : 2));
    const name = kind === 'child' && SMALL_DISK ? `small-disk/p${number}` : `p${number}`;
    const place = kind === 'browser' ? await browserPlace(name, page) : realFolder(name);
    await place.layOut(scene.before);
    const run = (order, cut) => {
      if (kind === 'child')
        return inChild(
          place,
          order,
          cut ? one(['kill', 'kill', 'moment', 'refuse', SMALL_DISK ? 'full' : 'small']) : 'whole',
        );
      if (kind === 'server') return onServer(place, order, cut && upTo(60));
      return place.run(order, cut && upTo(250));
    };
    for (let i = 0; i < cuts; i++) {
      await run({ set: scene.set, way: i === 0 ? 'on' : one(['on', 'on', 'back']) }, true);
      told.cuts += 1;
      byKind[kind] += 1;
      await check(place, scene, undefined, `${where}, cut ${i}`);
    }
    await settle(place, run, scene, where);
    place.remove();
  }
  pages.close();
  tell({ bench: 'faults', seed: Number(seed), ...told, byKind });
} finally {
  if (SMALL_DISK) spawnSync('umount', [SMALL_DISK]);
  rmSync(work, { recursive: true, force: true });
}
const { lost, orphaned, wrongTrees, stuck } = told;
process.exit(lost + orphaned + wrongTrees + stuck === 0 ? 0 : 1);
