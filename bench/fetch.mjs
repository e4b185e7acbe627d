import { execFileSync } from 'node:child_process';
import { closeSync, cpSync, existsSync, mkdirSync, openSync, readFileSync, readSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import {
  addBuild,
  digits,
  end,
  filesBelow,
  hasTool,
  load,
  memoryOf,
  put,
  serveFolder,
  sha256,
  startServer,
  tell,
  TOKEN,
  tool,
  watchMost,
  workFolder,
} from './kit.mjs';

/*
 * node bench/fetch.mjs OLD NEW [--usual]
 * Makes a source of two builds from the folders OLD and NEW, serves it, and goes back to OLD in a served folder that is NEW, which may be
 * empty, as the program does: it plans by what is on the disk, and the server fetches and rebuilds. Prints one line of JSON:
 * - `wireBytes` that the source has sent since the folder was known (indexes of bundles, bundles, files, and 300 a request), `requests`,
 *   what was planned (`plannedBytes`, `plannedRequests`), and whether what came is OLD byte for byte (`identical`);
 * - `rsyncBytes` that `rsync -z` takes (zstd, level 19) and `archiveBytes` of `tar` with `zstd -19`, where they are to be had; `ofLeast` is
 *   wireBytes as a share of the smaller one;
 * - `seconds` of planning and fetching, `planSeconds` of that, `peakMB` that the server's process and this one took more than idle;
 * - `rebuildMBs` a second of what frames bring, `provenMBs` with its digests, and `zstdMBs` that `zstd -d` unpacks of the same bytes;
 * - `makeSeconds` of making the source, `zstdSeconds` of `zstd -9 -T2` over the same bytes.
 * The source is made as strongly as it can be; with --usual as it usually is. Needs a build. Works in TMPDIR.
 */
const [OLD, NEW] = process.argv.slice(2, 4).map((path) => resolve(path));
const isUsual = process.argv.includes('--usual');
const [SOURCE_PORT, PORT] = [4187, 4188];
const REQUEST_BYTES = 300;
/** Of unpacking, ours and theirs: the best of them counts. */
const ROUNDS = 5;
const work = workFolder('fetch');

const since = (start) => (performance.now() - start) / 1000;
const isEmpty = filesBelow(NEW).length === 0;

function makeSource() {
  const game = { format: 'regressum-game', version: 1, id: 'tree', title: 'Tree', rules: { own: [] }, sources: [] };
  put(join(work, 'game.json'), JSON.stringify(game));
  const start = performance.now();
  for (const [label, folder] of isEmpty ? [['1', OLD]] : Object.entries({ 1: OLD, 2: NEW }))
    addBuild(work, label, `2026-01-0${label}`, { all: folder }, '--with-files', ...(isUsual ? [] : ['--strongest']));
  return since(start);
}

/** Counts what a server sends. */
function counted(server) {
  const sent = { bytes: 0, requests: 0 };
  server.on('request', (_, response) => {
    sent.requests += 1;
    const { write, end } = response;
    const count = (chunk) =>
      (sent.bytes += typeof chunk === 'string' || chunk instanceof Uint8Array ? chunk.length : 0);
    response.write = (...all) => (count(all[0]), write.apply(response, all));
    response.end = (...all) => (count(all[0]), end.apply(response, all));
  });
  return sent;
}

/** Whether what came, with what the folder has, is OLD. */
function isOld(root, where) {
  const paths = filesBelow(OLD).length;
  return (
    paths === where.length &&
    where.every(({ path, at }) => {
      const file = at.content === undefined ? join(root, at.path) : join(root, 'regressum-store', at.content);
      return existsSync(file) && sha256(readFileSync(file)) === sha256(readFileSync(join(OLD, path)));
    })
  );
}

function readPart(path, start, into) {
  const fd = openSync(path, 'r');
  readSync(fd, into, 0, into.length, start);
  closeSync(fd);
}

/** What the usual programs send, or keep; undefined where they are not to be had. */
function references(parts) {
  const told = {};
  if (hasTool('zstd')) {
    told.archiveBytes = Number(execFileSync('sh', ['-c', 'tar -C "$1" -c . | zstd -19 -q | wc -c', 'sh', OLD]));
    const start = performance.now();
    for (const folder of isEmpty ? [OLD] : [OLD, NEW])
      execFileSync('sh', ['-c', 'tar -C "$1" -c . | zstd -9 -T2 -q > /dev/null', 'sh', folder]);
    told.zstdSeconds = digits(since(start));
    put(join(work, 'plain'), Buffer.concat(parts));
    execFileSync('zstd', ['-9', '-q', join(work, 'plain')]);
    const taken = Array.from({ length: ROUNDS }, () => {
      const begun = performance.now();
      execFileSync('sh', ['-c', 'zstd -d -q -c "$1" > /dev/null', 'sh', join(work, 'plain.zst')]);
      return since(begun);
    });
    told.zstdMBs = digits(statSync(join(work, 'plain')).size / 1e6 / Math.min(...taken));
  }
  if (hasTool('rsync')) {
    cpSync(NEW, join(work, 'rsynced'), { recursive: true });
    const how = ['-a', '--delete', '--checksum', '--no-whole-file', '-z', '--zc=zstd', '--zl=19', '--stats'];
    const said = tool('rsync', [...how, `${OLD}/`, `${join(work, 'rsynced')}/`]);
    const sum = (what) => Number(new RegExp(`Total bytes ${what}: ([\\d,]+)`).exec(said)[1].replaceAll(',', ''));
    told.rsyncBytes = sum('sent') + sum('received');
  }
  return told;
}

const { readSource, planBack, fetchBack, rebuildAll } = await load(work, 'bench/fetch-node.ts', {
  external: ['@bokuweb/zstd-wasm'],
});
const made = makeSource();
const root = join(work, 'game');
mkdirSync(root);
cpSync(NEW, root, { recursive: true });
const source = await serveFolder(join(work, 'source'), SOURCE_PORT);
const sent = counted(source);
const server = await startServer(PORT, { roots: root });
const back = await readSource({
  ...{ base: `http://127.0.0.1:${PORT}`, root, token: TOKEN, had: isEmpty ? undefined : '2' },
  source: `/from/typed/http/127.0.0.1:${SOURCE_PORT}`,
});
Object.assign(sent, { bytes: 0, requests: 0 });
const idle = memoryOf(server.pid) + memoryOf(process.pid);
const most = watchMost(() => memoryOf(server.pid) + memoryOf(process.pid));
const start = performance.now();
const plan = await planBack(back);
const planSeconds = since(start);
const wireBefore = { ...sent };
const { planned, frames, failed, where } = await fetchBack(back, plan);
const taken = since(start);
const peakMB = Math.round((most() - idle) / 1e6);
const wireBytes = sent.bytes + REQUEST_BYTES * sent.requests;
const { requests } = sent;
const bundles = new Map();
const bundleOf = (href) => {
  const path = join(work, 'source', decodeURIComponent(href.split(`:${SOURCE_PORT}/`)[1]));
  if (!bundles.has(path)) bundles.set(path, new Uint8Array(readFileSync(path)));
  return bundles.get(path);
};
const readFrom = (path, from, into) => readPart(join(root, path.replace(/^trees\/[^/]+\//, '')), from, into);
const parts = [];
await rebuildAll(plan, bundleOf, readFrom, (piece) => parts.push(piece));
const rounds = [];
// Nothing of it is kept, as when it is put down.
for (let i = 0; i < ROUNDS; i++) rounds.push(await rebuildAll(plan, bundleOf, readFrom, () => undefined));
const [rebuilt] = rounds.toSorted((a, b) => a.rebuilding - b.rebuilding);
const bytes = parts.reduce((sum, part) => sum + part.length, 0);
const identical = failed === 0 && isOld(root, where);
const more = references(parts);
const least = Math.min(more.rsyncBytes ?? Infinity, more.archiveBytes ?? Infinity);
tell({
  ...{ bench: 'fetch', wireBytes, requests, frames },
  plannedBytes:
    planned.compressed + planned.plain + wireBefore.bytes + REQUEST_BYTES * (planned.requests + wireBefore.requests),
  plannedRequests: planned.requests + wireBefore.requests,
  oldBytes: where.reduce((sum, { path }) => sum + statSync(join(OLD, path)).size, 0),
  ...more,
  ...(Number.isFinite(least) && { ofLeast: digits(wireBytes / least) }),
  ...{
    seconds: digits(taken),
    planSeconds: digits(planSeconds),
    peakMB,
    identical,
  },
  ...(bytes > 0 && {
    rebuildMBs: digits(bytes / 1e6 / rebuilt.rebuilding),
    provenMBs: digits(bytes / 1e6 / (rebuilt.rebuilding + rebuilt.proving)),
  }),
  makeSeconds: digits(made),
});
if (!identical) process.exitCode = 1;
end();
