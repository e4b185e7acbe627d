import { spawnSync } from 'node:child_process';
import { createHash, randomFillSync } from 'node:crypto';
import {
  createReadStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';
import { startServer as start } from '../scripts/server.mjs';

/*
 * What measurements have in common: a folder to work in, the program's code, servers, browsers, times, and how they are told. What is
 * begun here ends with the process, however that ends.
 */

/** What a server has to be shown. */
export const TOKEN = 'bench';

const ends = new Set();
process.on('exit', () => ends.forEach((end) => end()));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(1));

/** A folder below TMPDIR, which is gone when the process ends. */
export function workFolder(name) {
  const folder = realpathSync(mkdtempSync(join(tmpdir(), `regressum-${name}-`)));
  // A server may write on for a moment after it was told to end.
  ends.add(() => rmSync(folder, { recursive: true, force: true, maxRetries: 10, retryDelay: 200 }));
  return folder;
}
/** A drive of its own, of so many bytes, which is gone when the process ends; undefined where the machine lets nobody make one. */
export function smallDrive(name, bytes) {
  const folder = mkdtempSync(join(tmpdir(), `regressum-${name}-`));
  const isMade = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${bytes}`, 'tmpfs', folder]).status === 0;
  ends.add(() => {
    // A server may still have it open.
    if (isMade) spawnSync('umount', ['--lazy', folder]);
    rmSync(folder, { recursive: true, force: true });
  });
  return isMade ? realpathSync(folder) : undefined;
}
/** Writes a module of the program, bundled for Node, into a folder. @returns its path */
export async function bundled(work, entry, { external = [] } = {}) {
  const file = join(work, `${entry.replaceAll('/', '-')}.mjs`);
  writeFileSync(file, await bundle(entry, { forNode: true, external }));
  if (external.length > 0 && !existsSync(join(work, 'node_modules')))
    symlinkSync(resolve('node_modules'), join(work, 'node_modules'));
  return file;
}

/** The exports of a module of the program. */
export const load = async (work, entry, options) => import(pathToFileURL(await bundled(work, entry, options)).href);

/**
 * The built server on a port of this machine, saying only what goes wrong.
 * @param settings `roots`: the folder whose folders it may change; without it, it has the demo. The rest goes into its environment
 */
export async function startServer(port, { roots, ...env } = {}) {
  const own = { REGRESSUM_DEMO: 'no', REGRESSUM_ROOTS: roots, REGRESSUM_TOKEN: TOKEN, REGRESSUM_WRITE: 'yes' };
  const settings = { ...(roots === undefined ? { REGRESSUM_DEMO: 'yes' } : own), ...env };
  const server = await start(port, settings, { stdio: ['ignore', 'ignore', 'inherit'] });
  // At once: a server that is asked kindly waits until its idle connections are closed.
  ends.add(() => server.kill('SIGKILL'));
  return server;
}

/** A port of this machine on which nobody listens just now. */
export async function freePort() {
  const server = createServer();
  await new Promise((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address();
  await new Promise((done) => server.close(done));
  return port;
}

/** Serves a folder on a port of this machine, whole files and ranges, as a static source does. @returns its server */
export async function serveFolder(folder, port = 0, { ranges = true } = {}) {
  const server = createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url, 'http://source').pathname));
    const size = existsSync(path) && statSync(path).isFile() ? statSync(path).size : undefined;
    if (size === undefined) return void response.writeHead(404).end();
    const range = ranges && /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? '');
    if (!range) return void createReadStream(path).pipe(response.writeHead(200, { 'Content-Length': size }));
    const [start, end] = [Number(range[1]), Math.min(size - 1, Number(range[2] || size - 1))];
    const headers = { 'Content-Length': end - start + 1, 'Content-Range': `bytes ${start}-${end}/${size}` };
    createReadStream(path, { start, end }).pipe(response.writeHead(206, headers));
  });
  await new Promise((done) => server.listen(port, '127.0.0.1', done));
  return server;
}

/** A page of a headless Chromium, 1280 by 800; with a profile in a folder, as people have, where one is named. */
export async function openPage({ profile, ...options } = {}) {
  const { chromium } = await import('@playwright/test');
  const program = { executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] };
  const settings = { viewport: { width: 1280, height: 800 }, ...options };
  const context = profile
    ? await chromium.launchPersistentContext(profile, { ...program, ...settings })
    : await (await chromium.launch(program)).newContext(settings);
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(120_000);
  return page;
}

/** Prints what was found out as one line of JSON. @param values `bench` first, the bench's name */
export const tell = (values) => console.log(JSON.stringify(values));

/** Ends the process, which idle connections and a browser would keep alive. */
export const end = () => process.exit();

/** Seconds that something takes. */
export async function seconds(run) {
  const begun = performance.now();
  await run();
  return (performance.now() - begun) / 1000;
}

export const median = (numbers) => numbers.toSorted((a, b) => a - b)[numbers.length >> 1];
/** Two digits behind the point. */
export const digits = (n) => Number(n.toFixed(2));
export const sha256 = (bytes) => createHash('sha256').update(bytes).digest('hex');

/** Runs a program to its end. @returns what it printed @throws Error with what it complained of */
export function tool(command, args = [], options = {}) {
  const { status, stdout, stderr, error } = spawnSync(command, args, { maxBuffer: 1 << 28, ...options });
  if (status !== 0) throw error ?? new Error(`${command} ${args.join(' ')}: ${stderr}`);
  return String(stdout);
}

/** Whether a program is to be had here. */
export const hasTool = (command) => spawnSync(command, ['--version']).status === 0;

/** Seconds of the usual copy of a folder, and of having it outlast a loss of power; the copy is gone afterwards. */
export async function copyAndSync(folder, to) {
  tool('sync');
  const taken = await seconds(() => (tool('cp', ['-r', folder, to]), tool('sync', ['-f', to])));
  rmSync(to, { recursive: true });
  return taken;
}

/** Writes a file, and the folders that it lies in. */
export function put(path, bytes) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}

/** Writes files of random bytes in 97 folders. @param sizeOf bytes of a file, by a number from 0 to 1 that all files share evenly */
export function putFiles(folder, count, sizeOf) {
  for (let i = 0; i < count; i++) {
    const size = Math.max(1, Math.round(sizeOf(((i * 7919) % 1009) / 1008)));
    put(join(folder, `set-${i % 97}`, `file-${i}.dat`), randomFillSync(Buffer.alloc(size)));
  }
}

export const filesBelow = (folder) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name));

/** Adds a build to the source of the game of `work`/game.json, as the command does. @param depots folder by depot @returns the source's folder */
export function addBuild(work, label, date, depots, ...more) {
  const from = Object.entries(depots).flatMap(([depot, folder]) => ['--from', `${depot}=${folder}`]);
  const source = join(work, 'source');
  tool(process.execPath, [
    ...['scripts/make-source.mjs', '--game', join(work, 'game.json'), '--label', label, '--date', date],
    ...['--on', 'live', ...from, ...more, '--to', source],
  ]);
  return source;
}

/** Bytes of memory that a process has now (VmRSS), or had at the most (VmHWM) since {@link forgetMost}. */
export const memoryOf = (pid, what = 'VmRSS') =>
  1024 * Number(new RegExp(`${what}:\\s+(\\d+)`).exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]);
export const forgetMost = (pid) => writeFileSync(`/proc/${pid}/clear_refs`, '5');

/** Watches what a measure comes to at the most. @returns what it was at the most until now, once it is asked */
export function watchMost(measure) {
  let most = measure();
  const timer = setInterval(() => (most = Math.max(most, measure())), 20);
  return () => (clearInterval(timer), most);
}
