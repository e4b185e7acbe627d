import { spawnSync } from 'node:child_process';
import { randomFillSync } from 'node:crypto';
import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';
import { startServer } from './start-server.mjs';

/*
 * node bench/assemble.mjs [FILES | FOLDER] [GIB]
 * Lays a served folder down beside itself: written, checked byte by byte and synced, against `cp -r` and `sync` of the same
 * folder, in turn, in the same run; and how far the server's memory goes above idle, and that of the page that asks for it,
 * also with one file of GIB (6). FILES (20,000) make 1 GiB; a FOLDER of one's own is copied first. Works in TMPDIR. Needs a
 * build. Prints one line of JSON.
 *
 * node bench/assemble.mjs --in-place [FILES | FOLDER] [CHANGED]
 * Puts every CHANGED-th (100) file right that was altered, in place, against `cp -r` and `sync` of all; and says how many files
 * of the folder were written.
 */
const ROUNDS = 3;
const PORT = 4187;
const TOKEN = 'bench';
const isInPlace = process.argv[2] === '--in-place';
const [argument = '20000', more] = process.argv.slice(isInPlace ? 3 : 2);
const gib = more ?? '6';

const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-assemble-')));
const root = join(work, 'root');

function makeFiles(count) {
  const mean = 2 ** 30 / count;
  for (let i = 0; i < count; i++) {
    const folder = join(root, 'many', `set-${i % 97}`);
    if (i < 97) mkdirSync(folder, { recursive: true });
    // From a quarter of the mean to a bit under twice of it.
    const size = Math.round(mean * (0.25 + (1.5 * ((i * 7919) % 1009)) / 1008));
    writeFileSync(join(folder, `file-${i}.dat`), randomFillSync(Buffer.alloc(size)));
  }
}

function makeLarge(size) {
  mkdirSync(join(root, 'large'), { recursive: true });
  const fd = openSync(join(root, 'large/one.dat'), 'w');
  const piece = randomFillSync(Buffer.alloc(16 << 20));
  for (let at = 0; at < size; at += piece.length) {
    piece.writeBigUInt64LE(BigInt(at), 0);
    writeSync(fd, piece, 0, Math.min(piece.length, size - at), at);
  }
  closeSync(fd);
}

const tool = (...command) => {
  const { status, stderr } = spawnSync(command[0], command.slice(1));
  if (status !== 0) throw new Error(`${command.join(' ')}: ${stderr}`);
};
const seconds = async (run) => {
  tool('sync');
  // Connections that the server closed while this process waited are noticed first.
  await new Promise((resolve) => setTimeout(resolve, 100));
  const start = performance.now();
  await run();
  return (performance.now() - start) / 1000;
};
const median = (numbers) => numbers.toSorted((a, b) => a - b)[numbers.length >> 1];
const digits = (n) => Number(n.toFixed(2));

/** The page's part, in a browser: what its own memory comes to at the most. */
async function openPage(module) {
  const { chromium } = await import('@playwright/test');
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  // The page allows no script that is not its own.
  const page = await (await browser.newContext({ bypassCSP: true })).newPage();
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.evaluate(async (code) => {
    const url = URL.createObjectURL(new Blob([code], { type: 'text/javascript' }));
    Object.assign(globalThis, { ...(await import(url)) });
  }, module);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  return {
    close: () => browser.close(),
    /** @returns the most bytes of JavaScript and of buffers that were in use while it laid the place down */
    async layDown(place) {
      const done = page.evaluate(async (at) => globalThis.layDown(at, await globalThis.planOf(at)), place);
      let isDone = false;
      done.finally(() => (isDone = true)).catch(() => undefined);
      let most = 0;
      while (!isDone) {
        const { usedSize, backingStorageSize = 0 } = await session.send('Runtime.getHeapUsage');
        most = Math.max(most, usedSize + backingStorageSize);
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
      await done;
      return most;
    },
  };
}

/** Repairs altered files where they lie, against a copy of all. */
async function inPlace(place, plan, { keep, planOf, planRepair, layDown, clear }) {
  const folder = join(root, 'many');
  const every = Number(more ?? '100');
  const paths = plan.steps.flatMap((step) => (step.do === 'copy' ? [step.from.slice('trees/t1/'.length)] : []));
  const altered = paths.filter((_, i) => i % every === 0);
  await keep(place, plan, new Set(altered));
  for (const path of altered) writeFileSync(join(folder, path), `altered ${path}`);
  const repair = await planRepair(plan, await planOf(place));
  const times = () => new Map(paths.map((path) => [path, statSync(join(folder, path)).ctimeMs]));
  const [ours, copied] = [[], []];
  let written;
  for (let round = 0; round < ROUNDS; round++) {
    const copy = join(work, 'copy');
    copied.push(
      await seconds(() => {
        tool('cp', '-r', folder, copy);
        tool('sync');
      }),
    );
    rmSync(copy, { recursive: true });
    const before = times();
    ours.push(await seconds(() => layDown(place, repair)));
    written = [...times()].filter(([path, time]) => before.get(path) !== time).length;
    await clear(place, repair);
  }
  return {
    ...{ bench: 'assemble --in-place', files: paths.length, altered: altered.length, written },
    ...{ seconds: digits(median(ours)), cpSyncSeconds: digits(median(copied)) },
    timesCpSync: digits(median(ours.map((own, i) => own / copied[i]))),
  };
}

let server;
try {
  if (/^\d+$/.test(argument)) makeFiles(Number(argument));
  else {
    mkdirSync(root);
    tool('cp', '-r', argument, join(root, 'many'));
  }
  const code = join(work, 'assemble-node.mjs');
  writeFileSync(code, await bundle('bench/assemble-node.ts', { forNode: true }));
  const { planOf, layDown, clear, keep, planRepair } = await import(pathToFileURL(code).href);
  server = await startServer(PORT, { REGRESSUM_ROOTS: root, REGRESSUM_TOKEN: TOKEN, REGRESSUM_WRITE: 'yes' });
  const { fetch } = globalThis;
  globalThis.fetch = (url, init) => fetch(new URL(url, `http://127.0.0.1:${PORT}`), init);
  const status = (name) =>
    1024 * Number(new RegExp(`${name}:\\s+(\\d+)`).exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))[1]);
  const idle = status('VmRSS');

  const many = { root, folder: 'many', token: TOKEN };
  const plan = await planOf(many);
  if (isInPlace) {
    console.log(JSON.stringify(await inPlace(many, plan, { keep, planOf, planRepair, layDown, clear })));
    server.kill('SIGKILL');
    rmSync(work, { recursive: true, force: true });
    process.exit();
  }
  const [ours, copied] = [[], []];
  for (let round = 0; round < ROUNDS; round++) {
    const copy = join(work, 'copy');
    copied.push(
      await seconds(() => {
        tool('cp', '-r', join(root, 'many'), copy);
        tool('sync');
      }),
    );
    rmSync(copy, { recursive: true });
    ours.push(await seconds(() => layDown(many, plan)));
    await clear(many, plan);
  }
  const peakMany = status('VmHWM') - idle;
  const page = await openPage(await bundle('bench/assemble-node.ts'));
  const pageMany = await page.layDown(many);
  await clear(many, plan);
  let [peakLarge, pageLarge] = [];
  if (Number(gib) > 0) {
    makeLarge(Number(gib) * 2 ** 30);
    await new Promise((resolve) => setTimeout(resolve, 100));
    const large = { root, folder: 'large', token: TOKEN };
    writeFileSync(`/proc/${server.pid}/clear_refs`, '5');
    pageLarge = await page.layDown(large);
    peakLarge = status('VmHWM') - idle;
  }
  await page.close();
  const mb = (bytes) => bytes && Math.round(bytes / 1e6);
  console.log(
    JSON.stringify({
      ...{
        bench: 'assemble',
        files: plan.steps.length - 1,
        seconds: digits(median(ours)),
        cpSyncSeconds: digits(median(copied)),
      },
      ...{ timesCpSync: digits(median(ours.map((own, i) => own / copied[i]))) },
      ...{ peakMB: mb(peakMany), largeGiB: Number(gib), peakLargeMB: mb(peakLarge) },
      ...{ pageMB: mb(pageMany), pageLargeMB: mb(pageLarge) },
    }),
  );
} finally {
  server?.kill('SIGKILL');
  rmSync(work, { recursive: true, force: true });
}
process.exit();
