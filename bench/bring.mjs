import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomFillSync } from 'node:crypto';
import {
  createReadStream,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';
import { startServer } from './start-server.mjs';

/*
 * node bench/bring.mjs [FILES] [MIB] [ranges|whole]
 * FILES (2,000) files of random bytes, MIB (1,024) in all, lie on a plain static server on loopback. They come into the store
 * of a served folder, proven; beside that aria2, with as many connections, fetches them, and `sha256sum -c` proves them. Prints one line
 * of JSON: seconds of both, their ratio (above 1 = sooner than the reference), files a second, requests, and the most memory of our
 * server's process above idle. Needs a build, aria2 and coreutils. Works in TMPDIR.
 */
const PORT = 4189;
const CONNECTIONS = 16;
const TOKEN = 'bench';
const PIECE = 1 << 20;

if (process.argv[2] === 'serve') {
  const [, , , folder, parts] = process.argv;
  createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url, 'http://x').pathname));
    const { size } = statSync(path);
    const range = parts !== 'whole' ? /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? '') : null;
    const start = range ? Number(range[1]) : 0;
    const end = range && range[2] !== '' ? Math.min(size - 1, Number(range[2])) : size - 1;
    response.writeHead(range ? 206 : 200, {
      'Content-Length': end - start + 1,
      ...(range && { 'Content-Range': `bytes ${start}-${end}/${size}` }),
      ...(parts !== 'whole' && { 'Accept-Ranges': 'bytes' }),
    });
    createReadStream(path, { start, end, highWaterMark: 1 << 20 }).pipe(response);
  }).listen(0, '127.0.0.1', function () {
    process.stdout.write(`${this.address().port}\n`);
  });
} else await measure();

async function measure() {
  const [files = '2000', mib = '1024', parts = 'ranges'] = process.argv.slice(2);
  const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-bring-')));
  const source = join(work, 'source');
  const root = join(work, 'game');
  for (const folder of [source, root, join(work, 'theirs')]) mkdirSync(folder);
  const size = Math.max(1, Math.round((Number(mib) * PIECE) / Number(files)));
  const published = [];
  const sums = [];
  for (let i = 0; i < Number(files); i++) {
    const name = `file-${i}.dat`;
    const pieces = [];
    const whole = createHash('sha256');
    writeFileSync(join(source, name), '');
    for (let at = 0; at < size; at += PIECE) {
      const bytes = randomFillSync(Buffer.alloc(Math.min(PIECE, size - at)));
      writeFileSync(join(source, name), bytes, { flag: 'a' });
      pieces.push(createHash('sha256').update(bytes).digest('hex'));
      whole.update(bytes);
    }
    sums.push(`${whole.digest('hex')}  ${name}`);
    published.push({ name, size, pieces, sha256: sums.at(-1).slice(0, 64) });
  }
  const serving = spawn(process.execPath, [fileURLToPath(import.meta.url), 'serve', source, parts], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const [port] = await new Promise((resolve) => serving.stdout.once('data', (text) => resolve([Number(text)])));
  const server = await startServer(PORT, {
    REGRESSUM_ROOTS: root,
    REGRESSUM_TOKEN: TOKEN,
    REGRESSUM_DEMO: 'no',
    REGRESSUM_WRITE: 'yes',
  });
  try {
    const code = join(work, 'bring-node.mjs');
    writeFileSync(code, await bundle('bench/bring-node.ts', { forNode: true }));
    const { bringAll } = await import(pathToFileURL(code).href);
    const memory = () => 1024 * Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))[1]);
    const idle = memory();
    let most = idle;
    const watch = setInterval(() => (most = Math.max(most, memory())), 20);
    const seconds = async (run) => {
      const start = performance.now();
      const result = await run();
      return { taken: (performance.now() - start) / 1000, result };
    };
    const origin = `/from/typed/http/127.0.0.1:${port}`;
    const ours = await seconds(() =>
      bringAll(
        `http://127.0.0.1:${PORT}`,
        { root, token: TOKEN },
        published.map(({ name, ...file }) => ({ ...file, href: `${origin}/${name}` })),
      ),
    );
    clearInterval(watch);
    writeFileSync(join(work, 'list'), published.map(({ name }) => `http://127.0.0.1:${port}/${name}\n`).join(''));
    writeFileSync(join(work, 'theirs/sums'), `${sums.join('\n')}\n`);
    const run = (command, args) => {
      const { status, stderr } = spawnSync(command, args, { cwd: join(work, 'theirs'), encoding: 'utf8' });
      if (status !== 0) throw new Error(`${command}: ${stderr}`);
    };
    const theirs = await seconds(async () => {
      run('aria2c', ['-q', '-i', join(work, 'list'), '-j', String(CONNECTIONS), '-x', '4', '--file-allocation=none']);
      run('sha256sum', ['-c', '--quiet', 'sums']);
    });
    const digits = (n) => Number(n.toFixed(2));
    console.log(
      JSON.stringify({
        ...{ bench: 'bring', files: Number(files), MiB: Number(mib), parts },
        ...{ seconds: digits(ours.taken), referenceSeconds: digits(theirs.taken) },
        ratio: digits(theirs.taken / ours.taken),
        filesPerSecond: Math.round(Number(files) / ours.taken),
        ...ours.result,
        memoryAboveIdleMB: Math.round((most - idle) / 1e6),
      }),
    );
  } finally {
    server.kill('SIGKILL');
    serving.kill('SIGKILL');
    rmSync(work, { recursive: true });
  }
  process.exit();
}
