import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/archives.mjs DIR [GAME [FOLDER]]
 * Reads every archive below DIR whole, as the shelf does: two at a time in threads of their own, unpacked, hashed, recognised, and
 * placed by the rules of GAME (a game's file) and the files of FOLDER (the game's own). Then unzip and tar unpack those of their kinds
 * into TMPDIR, one after the other. Prints one line of JSON: `timesUnpacking` is their time divided by ours over the same archives,
 * `peakMB` what the process used at the most.
 */
const AT_ONCE = 2;

const TOOLS = [
  [/\.zip$/i, (path, to) => ['unzip', '-qo', path, '-d', to]],
  [/\.(?:tar|tgz|tar\.(?:gz|bz2|xz|zst)|txz)$/i, (path, to) => ['tar', '-xf', path, '-C', to]],
];
const toolFor = (path, to) => TOOLS.find(([name]) => name.test(path))?.[1](path, to);

async function lookInThread({ module, dir }) {
  // What unpacks in memory is asked for as any part of the application is.
  const wasm = readFileSync(new URL('../node_modules/libarchive-wasm/dist/libarchive.wasm', import.meta.url));
  globalThis.fetch = async () => new Response(wasm);
  const { look } = await import(pathToFileURL(module).href);
  parentPort.on('message', async (name) => parentPort.postMessage(await look(join(dir, name), name)));
  parentPort.postMessage('ready');
}

const answerOf = (thread) =>
  new Promise((resolve, reject) => {
    thread.once('message', resolve);
    thread.once('error', reject);
  });

/** Has threads look into archives, each into one at a time. @returns what they found, in the order of the names, and the seconds */
async function lookAll(threads, names) {
  const found = [];
  let next = 0;
  const start = performance.now();
  await Promise.all(
    threads.map(async (thread) => {
      for (let i = next++; i < names.length; i = next++) {
        thread.postMessage(names[i]);
        found[i] = await answerOf(thread);
      }
    }),
  );
  return { found, seconds: (performance.now() - start) / 1000 };
}

/** Seconds that the usual tool takes for an archive; undefined where it refuses it. */
function unpack(path, work) {
  const to = mkdtempSync(join(work, 'out-'));
  const [command, ...words] = toolFor(path, to);
  const begin = performance.now();
  const { status } = spawnSync(command, words, { stdio: 'ignore' });
  const seconds = (performance.now() - begin) / 1000;
  rmSync(to, { recursive: true, force: true });
  return status === 0 ? seconds : undefined;
}

async function measure([dir, gameFile, folder]) {
  if (!dir) throw new Error('Name a folder of archives.');
  const work = mkdtempSync(join(tmpdir(), 'regressum-archives-'));
  const module = join(work, 'archives-node.mjs');
  writeFileSync(module, await bundle('bench/archives-node.ts', { forNode: true }));
  const { filesBelow, place } = await import(pathToFileURL(module).href);
  const threads = Array.from(
    { length: AT_ONCE },
    () => new Worker(new URL(import.meta.url), { workerData: { module, dir } }),
  );
  try {
    await Promise.all(threads.map(answerOf));
    const names = filesBelow(dir).sort();
    const comparable = names.filter((name) => toolFor(name, ''));
    const own = await lookAll(threads, comparable);
    const others = await lookAll(
      threads,
      names.filter((name) => !comparable.includes(name)),
    );
    const looked = [...own.found, ...others.found];
    const refused = {};
    for (const { code } of looked) if (code !== undefined) refused[code] = (refused[code] ?? 0) + 1;
    const archives = looked.flatMap(({ read }) => (read ? [read] : []));
    const theirs = comparable.map((name) => unpack(join(dir, name), work) ?? 0).reduce((sum, one) => sum + one, 0);
    const rules = gameFile ? JSON.parse(readFileSync(gameFile, 'utf8')).rules : {};
    const begin = performance.now();
    const { placed, asked } = place(archives, rules, folder ? filesBelow(folder) : []);
    const digits = (n) => Number(n.toFixed(2));
    const packed = names.reduce((sum, name) => sum + statSync(join(dir, name)).size, 0);
    console.log(
      JSON.stringify({
        ...{ bench: 'archives', archives: names.length, read: archives.length, refused },
        ...{
          packedMB: digits(packed / 1e6),
          unpackedMB: digits(looked.reduce((sum, { bytes = 0 }) => sum + bytes, 0) / 1e6),
        },
        ...{ seconds: digits(own.seconds + others.seconds), placed, asked },
        placingSeconds: digits((performance.now() - begin) / 1000),
        timesUnpacking: comparable.length > 0 ? digits(theirs / own.seconds) : null,
        peakMB: Math.round(process.resourceUsage().maxRSS / 1000),
      }),
    );
  } finally {
    await Promise.all(threads.map((thread) => thread.terminate()));
    rmSync(work, { recursive: true, force: true });
  }
}

if (isMainThread) await measure(process.argv.slice(2));
else await lookInThread(workerData);
