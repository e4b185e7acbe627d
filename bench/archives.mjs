import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { bundled, digits, seconds, tell, workFolder } from './kit.mjs';

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
  const lookOn = async (thread) => {
    for (let i = next++; i < names.length; i = next++) {
      thread.postMessage(names[i]);
      found[i] = await answerOf(thread);
    }
  };
  return { found, seconds: await seconds(() => Promise.all(threads.map(lookOn))) };
}

/** Seconds that the usual tool takes for an archive; none where it refuses it. */
async function unpack(path, work) {
  const to = mkdtempSync(join(work, 'out-'));
  const [command, ...words] = toolFor(path, to);
  let status;
  const taken = await seconds(() => ({ status } = spawnSync(command, words, { stdio: 'ignore' })));
  rmSync(to, { recursive: true, force: true });
  return status === 0 ? taken : 0;
}

async function measure([dir, gameFile, folder]) {
  if (!dir) throw new Error('Name a folder of archives.');
  const work = workFolder('archives');
  const module = await bundled(work, 'bench/archives-node.ts');
  const { filesBelow, place } = await import(pathToFileURL(module).href);
  const threads = Array.from(
    { length: AT_ONCE },
    () => new Worker(new URL(import.meta.url), { workerData: { module, dir } }),
  );
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
  let theirs = 0;
  for (const name of comparable) theirs += await unpack(join(dir, name), work);
  const rules = gameFile ? JSON.parse(readFileSync(gameFile, 'utf8')).rules : {};
  let placing;
  const placingSeconds = digits(
    await seconds(() => (placing = place(archives, rules, folder ? filesBelow(folder) : []))),
  );
  const packed = names.reduce((sum, name) => sum + statSync(join(dir, name)).size, 0);
  tell({
    ...{ bench: 'archives', archives: names.length, read: archives.length, refused },
    ...{
      packedMB: digits(packed / 1e6),
      unpackedMB: digits(looked.reduce((sum, { bytes = 0 }) => sum + bytes, 0) / 1e6),
    },
    ...{ seconds: digits(own.seconds + others.seconds), ...placing },
    placingSeconds,
    timesUnpacking: comparable.length > 0 ? digits(theirs / own.seconds) : null,
    peakMB: Math.round(process.resourceUsage().maxRSS / 1000),
  });
  await Promise.all(threads.map((thread) => thread.terminate()));
}

if (isMainThread) await measure(process.argv.slice(2));
else await lookInThread(workerData);
