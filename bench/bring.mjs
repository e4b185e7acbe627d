import { randomFillSync } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker, isMainThread, parentPort, workerData } from 'node:worker_threads';
import {
  digits,
  end,
  load,
  memoryOf,
  put,
  seconds,
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
 * node bench/bring.mjs [FILES] [MIB] [ranges|whole]
 * FILES (2,000) files of random bytes, MIB (1,024) in all, lie on a plain static server on loopback. They come into the store
 * of a served folder, proven; beside that aria2, with as many connections, fetches them, and `sha256sum -c` proves them. Prints one line
 * of JSON: seconds of both, their ratio (above 1 = sooner than the reference), files a second, requests, and the most memory of our
 * server's process above idle. Needs a build, aria2 and coreutils. Works in TMPDIR.
 */
const PORT = 4189;
const CONNECTIONS = '16';
const PIECE = 1 << 20;

/** The source is served by a thread of its own, which nothing that is measured holds up. */
if (!isMainThread) {
  const source = await serveFolder(workerData.folder, 0, { ranges: workerData.ranges });
  parentPort.postMessage(source.address().port);
} else await measure(...process.argv.slice(2));

async function measure(files = '2000', mib = '1024', parts = 'ranges') {
  const work = workFolder('bring');
  const [source, root, theirs] = ['source', 'game', 'theirs'].map((name) => join(work, name));
  for (const folder of [root, theirs]) mkdirSync(folder);
  const size = Math.max(1, Math.round((Number(mib) * PIECE) / Number(files)));
  const published = Array.from({ length: Number(files) }, (_, i) => {
    const bytes = randomFillSync(Buffer.alloc(size));
    put(join(source, `file-${i}.dat`), bytes);
    const pieces = Array.from({ length: Math.ceil(size / PIECE) }, (_, at) =>
      sha256(bytes.subarray(at * PIECE, (at + 1) * PIECE)),
    );
    return { name: `file-${i}.dat`, size, pieces, sha256: sha256(bytes) };
  });
  const serving = new Worker(new URL(import.meta.url), { workerData: { folder: source, ranges: parts !== 'whole' } });
  const port = await new Promise((resolve) => serving.once('message', resolve));
  const server = await startServer(PORT, { roots: root });
  const { bringAll } = await load(work, 'bench/bring-node.ts');
  const idle = memoryOf(server.pid);
  const most = watchMost(() => memoryOf(server.pid));
  const wanted = published.map(({ name, ...file }) => ({
    ...file,
    href: `/from/typed/http/127.0.0.1:${port}/${name}`,
  }));
  let brought;
  const ours = await seconds(async () => {
    brought = await bringAll(`http://127.0.0.1:${PORT}`, { root, token: TOKEN }, wanted);
  });
  const memoryAboveIdleMB = Math.round((most() - idle) / 1e6);
  writeFileSync(join(work, 'list'), published.map(({ name }) => `http://127.0.0.1:${port}/${name}\n`).join(''));
  writeFileSync(join(theirs, 'sums'), published.map((file) => `${file.sha256}  ${file.name}\n`).join(''));
  const reference = await seconds(() => {
    const list = ['-i', join(work, 'list'), '-j', CONNECTIONS, '-x', '4', '--file-allocation=none'];
    tool('aria2c', ['-q', ...list], { cwd: theirs });
    tool('sha256sum', ['-c', '--quiet', 'sums'], { cwd: theirs });
  });
  tell({
    ...{ bench: 'bring', files: Number(files), MiB: Number(mib), parts },
    ...{ seconds: digits(ours), referenceSeconds: digits(reference), ratio: digits(reference / ours) },
    ...{ filesPerSecond: Math.round(Number(files) / ours), ...brought, memoryAboveIdleMB },
  });
  end();
}
