import { randomFillSync } from 'node:crypto';
import { closeSync, mkdirSync, openSync, statSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { bundle } from '../scripts/bundle.mjs';
import {
  copyAndSync,
  digits,
  end,
  forgetMost,
  load,
  median,
  memoryOf,
  openPage,
  putFiles,
  seconds,
  startServer,
  tell,
  TOKEN,
  tool,
  workFolder,
} from './kit.mjs';

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
const isInPlace = process.argv[2] === '--in-place';
const [argument = '20000', more] = process.argv.slice(isInPlace ? 3 : 2);
const gib = more ?? '6';

const work = workFolder('assemble');
const root = join(work, 'root');

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

/** The page's part, in a browser: what its own memory comes to at the most. */
async function openOwnPage(module) {
  // The page allows no script that is not its own.
  const page = await openPage({ bypassCSP: true });
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.evaluate(async (code) => {
    const url = URL.createObjectURL(new Blob([code], { type: 'text/javascript' }));
    Object.assign(globalThis, { ...(await import(url)) });
  }, module);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  return {
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
    copied.push(await copyAndSync(folder, join(work, 'copy')));
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

// From a quarter of the mean size to a bit under twice of it.
if (/^\d+$/.test(argument))
  putFiles(join(root, 'many'), Number(argument), (at) => (2 ** 30 / argument) * (0.25 + 1.5 * at));
else {
  mkdirSync(root);
  tool('cp', ['-r', argument, join(root, 'many')]);
}
const { planOf, layDown, clear, keep, planRepair } = await load(work, 'bench/assemble-node.ts');
const server = await startServer(PORT, { roots: root });
const { fetch } = globalThis;
globalThis.fetch = (url, init) => fetch(new URL(url, `http://127.0.0.1:${PORT}`), init);
const idle = memoryOf(server.pid);

const many = { root, folder: 'many', token: TOKEN };
const plan = await planOf(many);
if (isInPlace) {
  tell(await inPlace(many, plan, { keep, planOf, planRepair, layDown, clear }));
  end();
}
const [ours, copied] = [[], []];
for (let round = 0; round < ROUNDS; round++) {
  copied.push(await copyAndSync(join(root, 'many'), join(work, 'copy')));
  ours.push(await seconds(() => layDown(many, plan)));
  await clear(many, plan);
}
const peakMany = memoryOf(server.pid, 'VmHWM') - idle;
const page = await openOwnPage(await bundle('bench/assemble-node.ts'));
const pageMany = await page.layDown(many);
await clear(many, plan);
let [peakLarge, pageLarge] = [];
if (Number(gib) > 0) {
  makeLarge(Number(gib) * 2 ** 30);
  await new Promise((resolve) => setTimeout(resolve, 100));
  const large = { root, folder: 'large', token: TOKEN };
  forgetMost(server.pid);
  pageLarge = await page.layDown(large);
  peakLarge = memoryOf(server.pid, 'VmHWM') - idle;
}
const mb = (bytes) => bytes && Math.round(bytes / 1e6);
tell({
  ...{
    bench: 'assemble',
    files: plan.steps.length - 1,
    seconds: digits(median(ours)),
    cpSyncSeconds: digits(median(copied)),
  },
  ...{ timesCpSync: digits(median(ours.map((own, i) => own / copied[i]))) },
  ...{ peakMB: mb(peakMany), largeGiB: Number(gib), peakLargeMB: mb(peakLarge) },
  ...{ pageMB: mb(pageMany), pageLargeMB: mb(pageLarge) },
});
end();
