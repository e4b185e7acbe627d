import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  readSync,
  realpathSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { createDCtx, decompressUsingDict, freeDCtx, init } from '@bokuweb/zstd-wasm';
import { bundle } from '../scripts/bundle.mjs';
import { serveFolder } from './serve-folder.mjs';

/*
 * node bench/fetch.mjs OLD NEW [--usual]
 * Makes a source of two builds from the folders OLD and NEW, serves it, and fetches OLD with NEW on disk by the frames that are chosen for it,
 * each byte checked. Prints one line of JSON: bytes on the wire (bundles, their indexes, files by themselves, and 300 a request), requests,
 * what `rsync -z` (zstd, level 19) and `tar` with `zstd -19` take where they are to be had, seconds of fetching, the most memory, and whether
 * what came is OLD byte for byte; and seconds of making the source beside `zstd -9 -T2` over the same bytes. With --usual the source is made
 * at its usual level. Works in TMPDIR.
 */
const [OLD, NEW] = process.argv.slice(2, 4).map((path) => resolve(path));
const isUsual = process.argv.includes('--usual');
const PORT = 4187;
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-fetch-')));
writeFileSync(join(work, 'core.mjs'), await bundle('bench/fetch-node.ts', { forNode: true }));
const core = await import(pathToFileURL(join(work, 'core.mjs')).href);
await init();

const sha = (bytes) => createHash('sha256').update(bytes).digest('hex');
const seconds = (start) => (performance.now() - start) / 1000;
const digits = (n) => Number(n.toFixed(2));

function makeSource() {
  const game = { format: 'regressum-game', version: 1, id: 'tree', title: 'Tree', rules: { own: [] }, sources: [] };
  writeFileSync(join(work, 'game.json'), JSON.stringify(game));
  const start = performance.now();
  for (const [label, folder] of [
    ['1', OLD],
    ['2', NEW],
  ])
    execFileSync(process.execPath, [
      'scripts/make-source.mjs',
      ...['--game', join(work, 'game.json'), '--label', label, '--date', `2026-01-0${label}`, '--on', 'main'],
      ...['--from', `all=${folder}`, '--with-files', '--bundles', ...(isUsual ? [] : ['--strongest'])],
      ...['--to', join(work, 'source')],
    ]);
  return seconds(start);
}

const wire = { bytes: 0, requests: 0 };
async function get(path, range) {
  const headers = range ? { Range: `bytes=${range[0]}-${range[1] - 1}` } : {};
  const answer = await fetch(`http://127.0.0.1:${PORT}/${path}`, { headers });
  if (!answer.ok) throw new Error(`${path}: ${answer.status}`);
  const bytes = new Uint8Array(await answer.arrayBuffer());
  wire.bytes += bytes.length + core.REQUEST_BYTES;
  wire.requests += 1;
  return bytes;
}

/** Bytes of contents on the disk, after one another, behind what stands before a prefix. */
function readPrefix(parts, pathOf) {
  const bytes = new Uint8Array(parts.reduce((sum, { start, end }) => sum + end - start, core.BEFORE_PREFIX));
  let at = core.BEFORE_PREFIX;
  for (const { key, start, end } of parts) {
    const fd = openSync(pathOf.get(key), 'r');
    at += readSync(fd, bytes, at, end - start, start);
    closeSync(fd);
  }
  return bytes;
}

function unpack(packed, prefix, size) {
  if (core.unpackedSize(packed) !== size) throw new Error('a frame is not as large as its index says');
  const context = createDCtx();
  try {
    return decompressUsingDict(context, packed, prefix);
  } finally {
    freeDCtx(context);
  }
}

let mostMemory = 0;
async function fetchBack() {
  const index = core.DepotIndexSchema.parse(JSON.parse(new TextDecoder().decode(await get('index.json'))));
  const manifestOf = async (build) => {
    const entry = index.manifests.find((one) => one.build === build);
    const text = new TextDecoder().decode(await get(entry.href));
    return { entry, manifest: core.parseMetalink(text, entry.build, entry.depot, entry.href) };
  };
  const [wanted, had] = [await manifestOf('1'), await manifestOf('2')];
  // What is known since the folder was checked is no part of fetching.
  Object.assign(wire, { bytes: 0, requests: 0 });
  const start = performance.now();
  const files = core.manifestFiles(wanted.manifest);
  const pathOf = new Map(core.manifestFiles(had.manifest).map(({ key, path }) => [key, join(NEW, path)]));
  const missing = new Map(
    files.filter(({ key }) => !pathOf.has(key)).map(({ key }) => [key, core.keyPieces(key).map((_, i) => i)]),
  );
  const framesFor = async (some) => {
    const all = [];
    for (const { href, index: at, sha256 } of some) {
      const text = await get(at);
      if (sha(text) !== sha256) throw new Error(`${at} is another one`);
      const read = core.BundleIndexSchema.parse(JSON.parse(gunzipSync(text)));
      const base = read.from && had.manifest;
      all.push(...core.framesOf(read, wanted.manifest, base).map((frame) => ({ ...frame, href })));
    }
    return all;
  };
  const bundles = wanted.entry.bundles ?? [];
  const isAtHand = (key) => pathOf.has(key);
  const deltas = await framesFor(bundles.filter(({ from }) => from === '2'));
  let chosen = core.chooseFrames(missing, deltas, isAtHand);
  if (chosen.plain.size > 0) {
    const whole = await framesFor(bundles.filter(({ from }) => from === undefined));
    chosen = core.chooseFrames(missing, [...deltas, ...whole], isAtHand);
  }
  const to = join(work, 'back');
  const fdOf = new Map();
  for (const { path, key } of files) {
    mkdirSync(dirname(join(to, path)), { recursive: true });
    if (pathOf.has(key)) writeFileSync(join(to, path), readFileSync(pathOf.get(key)));
    else if (fdOf.has(key)) fdOf.get(key).more.push(path);
    else fdOf.set(key, { path, more: [], fd: openSync(join(to, path), 'w') });
  }
  const put = (key, from, bytes) => {
    for (let at = 0; at < bytes.length || at === 0;) {
      const piece = Math.floor((from + at) / core.keyPieceSize(key));
      const { end } = core.pieceRange(core.keySize(key), piece, core.keyPieceSize(key));
      const some = bytes.subarray(at, end - from);
      if (sha(some) !== core.keyPieces(key)[piece]) throw new Error('a piece is wrong');
      writeSync(fdOf.get(key).fd, some, 0, some.length, from + at);
      at += some.length;
      if (some.length === 0) break;
    }
  };
  for (const { href, at, length, size, parts, prefix } of chosen.frames) {
    const plain = unpack(await get(href, [at, at + length]), readPrefix(prefix, pathOf), size);
    let from = 0;
    for (const { key, start: first, end } of parts) {
      if (fdOf.has(key)) put(key, first, plain.subarray(from, from + end - first));
      from += end - first;
    }
    mostMemory = Math.max(mostMemory, process.memoryUsage().rss);
  }
  for (const [key, pieces] of chosen.plain) {
    const { path } = fdOf.get(key);
    const ranges = pieces.map((piece) => core.pieceRange(core.keySize(key), piece, core.keyPieceSize(key)));
    for (const { start: first, end } of ranges)
      put(
        key,
        first,
        end > first
          ? await get(`${wanted.entry.filesHref}${path.split('/').map(encodeURIComponent).join('/')}`, [first, end])
          : new Uint8Array(0),
      );
  }
  for (const { path, more, fd } of fdOf.values()) {
    closeSync(fd);
    for (const other of more) writeFileSync(join(to, other), readFileSync(join(to, path)));
  }
  return { seconds: seconds(start), frames: chosen.frames.length, plain: chosen.plain.size, to };
}

/** What the usual programs send, or keep; undefined where they are not to be had. */
function references() {
  const has = (program) => spawnSync(program, ['--version']).status === 0;
  const told = {};
  if (has('zstd')) {
    told.archiveBytes = Number(execFileSync('sh', ['-c', 'tar -C "$1" -c . | zstd -19 -q | wc -c', 'sh', OLD]));
    const start = performance.now();
    for (const folder of [OLD, NEW])
      execFileSync('sh', ['-c', 'tar -C "$1" -c . | zstd -9 -T2 -q > /dev/null', 'sh', folder]);
    told.zstdSeconds = digits(seconds(start));
  }
  if (has('rsync')) {
    execFileSync('cp', ['-r', NEW, join(work, 'rsynced')]);
    const said = execFileSync(
      'rsync',
      [
        ...['-a', '--delete', '--checksum', '--no-whole-file', '-z', '--zc=zstd', '--zl=19', '--stats'],
        ...[`${OLD}/`, `${join(work, 'rsynced')}/`],
      ],
      { encoding: 'utf8' },
    );
    const sum = (what) => Number(new RegExp(`Total bytes ${what}: ([\\d,]+)`).exec(said)[1].replaceAll(',', ''));
    told.rsyncBytes = sum('sent') + sum('received');
  }
  return told;
}

const made = makeSource();
const server = await serveFolder(join(work, 'source'), PORT);
try {
  const before = process.memoryUsage().rss;
  const { seconds: taken, frames, plain, to } = await fetchBack();
  const identical = spawnSync('diff', ['-r', OLD, to]).status === 0;
  const oldBytes = Number(
    execFileSync('sh', ['-c', 'find "$1" -type f -printf "%s\\n" | awk \'{s+=$1} END {print s+0}\'', 'sh', OLD]),
  );
  const more = references();
  const least = Math.min(more.rsyncBytes ?? Infinity, more.archiveBytes ?? Infinity);
  console.log(
    JSON.stringify({
      ...{ bench: 'fetch', wireBytes: wire.bytes, requests: wire.requests, frames, plain, oldBytes, ...more },
      ...(Number.isFinite(least) && { ofLeast: digits(wire.bytes / least) }),
      ...{
        seconds: digits(taken),
        peakMB: Math.round((mostMemory - before) / 1e6),
        identical,
        makeSeconds: digits(made),
      },
    }),
  );
  if (!identical) process.exitCode = 1;
} finally {
  server.close();
  server.closeAllConnections();
  rmSync(work, { recursive: true, force: true });
}
