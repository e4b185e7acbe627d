import { createServer } from 'node:http';
import { join } from 'node:path';
import { bundle } from '../scripts/bundle.mjs';
import { digits, end, load, median, openPage, put, seconds, tell, tool, workFolder } from './kit.mjs';

/*
 * node bench/verify.mjs FOLDER   hashes a folder in Node
 * node bench/verify.mjs [BYTES [FILES]]  hashes the demo's tree, the bytes of its files times BYTES (20) and their number
 *                                 times FILES (0.2), on the browser's private disk
 * Both against one sha256sum over the same bytes, in turn, in the same run. Prints one line of JSON.
 */
const ROUNDS = 3;
const WORKERS = 2;

const work = workFolder('verify');
const { filesBelow, hashFiles, demoFiles } = await load(work, 'bench/verify-node.ts');

const reference = (paths) => seconds(() => tool('xargs', ['-0', 'sha256sum'], { input: paths.join('\0') }));

/** Measures in turn, so that a machine whose speed drifts slows both down alike. */
async function compare(what, paths, bytes, ours, { digestAlone, openAlone } = {}) {
  const rounds = [];
  for (let i = 0; i < ROUNDS; i++)
    rounds.push({
      ours: await ours(),
      theirs: await reference(paths),
      alone: await digestAlone?.(),
      opening: await openAlone?.(),
    });
  const middle = (figure) => digits(median(rounds.map(figure)));
  tell({
    bench: 'verify',
    what,
    files: paths.length,
    bytes,
    MBperSecond: middle(({ ours }) => bytes / 1e6 / ours),
    timesSha256sum: middle(({ ours, theirs }) => theirs / ours),
    // Against the browser's own SHA-256 on this processor with no disk in its way; and how far one could come that did
    // nothing but open the files, as each has to be, and hash them, with all cores at work in both.
    ...(digestAlone && {
      digestAloneTimesSha256sum: middle(({ alone, theirs }) => alone * (theirs / bytes)),
      timesDigestAlone: middle(({ ours, alone }) => bytes / ours / alone),
      openAloneSeconds: middle(({ opening }) => opening),
      ceilingTimesDigestAlone: middle(({ alone, opening }) => bytes / alone / (bytes / alone + opening)),
    }),
  });
}

async function inBrowser(scale) {
  const files = demoFiles(scale);
  const paths = files.map(({ path, read }) => {
    const place = join(work, 'tree', path);
    put(place, read());
    return place;
  });
  const code = await bundle('bench/verify-worker.ts');
  const server = createServer((request, response) => {
    const isCode = request.url === '/worker.js';
    response.setHeader('Content-Type', isCode ? 'text/javascript' : 'text/html');
    response.end(isCode ? code : '<!doctype html><title>bench</title>');
  }).listen(0, '127.0.0.1');
  // A profile on disk, as people have: one that is kept in memory has a private disk in memory, which is another thing.
  const page = await openPage({ profile: join(work, 'profile') });
  await page.goto(`http://127.0.0.1:${server.address().port}/`);
  const bytes = await page.evaluate(
    async ([n, factor]) => {
      window.workers = Array.from({ length: n }, () => new Worker('/worker.js', { type: 'module' }));
      window.ask = (worker, message) =>
        new Promise((resolve, reject) => {
          worker.onmessage = ({ data }) => ('failed' in data ? reject(new Error(data.failed)) : resolve(data.value));
          worker.onerror = (event) => reject(new Error(event.message));
          worker.postMessage(message);
        });
      window.parts = await Promise.all(
        window.workers.map((worker, part) => window.ask(worker, { do: 'make', scale: factor, part, parts: n })),
      );
      return window.parts.flat().reduce((sum, { size }) => sum + size, 0);
    },
    [WORKERS, scale],
  );
  /** Seconds in which the workers did something with each file. */
  const timed = (what) =>
    page.evaluate(async (task) => {
      const start = performance.now();
      const counts = await Promise.all(
        window.workers.map((worker, i) => window.ask(worker, { do: task, files: window.parts[i] })),
      );
      if (counts.some((count, i) => count !== window.parts[i].length)) throw new Error(`a file failed: ${task}`);
      return (performance.now() - start) / 1000;
    }, what);
  await compare(`browser disk, ${WORKERS} workers`, paths, bytes, () => timed('hash'), {
    openAlone: () => timed('open'),
    digestAlone: () =>
      page.evaluate(async () => {
        const start = performance.now();
        const pieces = 100;
        await Promise.all(window.workers.map((worker) => window.ask(worker, { do: 'digest', pieces })));
        return (window.workers.length * pieces * 2 ** 20) / ((performance.now() - start) / 1000);
      }),
  });
}

const [argument = '20', files = '0.2'] = process.argv.slice(2);
if (/^\d+(\.\d+)?$/.test(argument)) await inBrowser({ bytes: Number(argument), files: Number(files) });
else {
  const paths = await filesBelow(argument);
  const bytes = await hashFiles(paths);
  await compare(`folder ${argument}, Node`, paths, bytes, () => seconds(() => hashFiles(paths)));
}
end();
