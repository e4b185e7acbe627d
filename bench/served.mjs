import { spawnSync } from 'node:child_process';
import { randomFillSync } from 'node:crypto';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';
import { startServer } from './start-server.mjs';

/*
 * node bench/served.mjs [FILES | FOLDER]
 * Hashes a folder through the running server as the job that surveys does: FOLDER, or FILES (20,000) of 2 to 256 KiB,
 * against two `openssl dgst -sha256` that share the same files, in turn, in the same run. Needs a build. Prints one line
 * of JSON.
 */
const ROUNDS = 3;
const PORT = 4186;
const TOKEN = 'bench';
const [argument = '20000'] = process.argv.slice(2);

const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-served-')));
const given = !/^\d+$/.test(argument);
const root = given ? realpathSync(argument) : join(work, 'root');

/** Sizes spread evenly over the steps from 2 to 256 KiB; every byte is random. */
function makeFiles(count) {
  for (let i = 0; i < count; i++) {
    const folder = join(root, `set-${i % 97}`);
    if (i < 97) mkdirSync(folder, { recursive: true });
    const size = Math.round(2048 * 2 ** ((7 * ((i * 7919) % 1009)) / 1008));
    writeFileSync(join(folder, `file-${i}.dat`), randomFillSync(Buffer.alloc(size)));
  }
}

const seconds = async (run) => {
  const start = performance.now();
  await run();
  return (performance.now() - start) / 1000;
};
const median = (numbers) => numbers.toSorted((a, b) => a - b)[numbers.length >> 1];
const digits = (n) => Number(n.toFixed(2));

let server;
try {
  if (!given) makeFiles(Number(argument));
  const code = join(work, 'served-node.mjs');
  writeFileSync(code, await bundle('bench/served-node.ts', { forNode: true }));
  const { openServed, hashAll } = await import(pathToFileURL(code).href);
  server = await startServer(PORT, { REGRESSUM_ROOTS: root, REGRESSUM_TOKEN: TOKEN });
  const folder = openServed(`http://127.0.0.1:${PORT}`, root, TOKEN);
  const entries = await folder.list();
  // The stand-ins make their manifests at the start; what is measured is not that.
  await new Promise((resolve) => setTimeout(resolve, 8000));
  const bytes = entries.reduce((sum, { size }) => sum + size, 0);
  const input = entries.map(({ path }) => join(root, path)).join('\0');
  const rounds = [];
  for (let i = 0; i < ROUNDS; i++) {
    const ours = await seconds(async () => {
      const hashed = await hashAll(folder, entries);
      if (hashed < entries.length) throw new Error(`${entries.length - hashed} files could not be hashed`);
    });
    const theirs = await seconds(() => {
      const half = String(Math.ceil(entries.length / 2));
      const { status, stderr } = spawnSync('xargs', ['-0', '-P', '2', '-n', half, 'openssl', 'dgst', '-sha256'], {
        input,
        maxBuffer: 1 << 28,
      });
      if (status !== 0) throw new Error(String(stderr));
    });
    rounds.push({ ours, theirs });
  }
  console.log(
    JSON.stringify({
      bench: 'served',
      files: entries.length,
      bytes,
      MBperSecond: digits(bytes / 1e6 / median(rounds.map(({ ours }) => ours))),
      timesTwoOpenssl: digits(median(rounds.map(({ ours, theirs }) => theirs / ours))),
    }),
  );
} finally {
  // At once: a server that is asked kindly waits until its idle connections are closed.
  server?.kill('SIGKILL');
  rmSync(work, { recursive: true });
}
// Idle connections to the server would keep the process alive.
process.exit();
