import { execFileSync } from 'node:child_process';
import { mkdtempSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/store.mjs [CONTENTS]
 * Fills a store with CONTENTS (200,000) and measures what it takes to tell what lies there, and to plan against it, with the
 * time that `find` takes to list the same files in the same run; memory above idle. Works in TMPDIR. Prints one line of JSON.
 */
const contents = Number(process.argv[2] ?? '200000');
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-store-')));
try {
  const module = join(work, 'store.mjs');
  writeFileSync(module, await bundle('bench/store-node.ts', { forNode: true }));
  const { fill } = await import(pathToFileURL(module).href);
  const folder = join(work, 'game');
  execFileSync('mkdir', [folder]);
  await fill(folder, contents);
  const start = performance.now();
  execFileSync('find', [folder, '-type', 'f', '-printf', '%s\n'], { maxBuffer: 1 << 28 });
  const findSeconds = Math.round(performance.now() - start) / 1000;
  // In a process of its own: what filling it took is no part of it.
  const script = `import(${JSON.stringify(pathToFileURL(module).href)}).then(async ({ measure }) => console.log(JSON.stringify(await measure(${JSON.stringify(folder)}))))`;
  const measured = JSON.parse(execFileSync(process.execPath, ['--input-type=module', '-e', script]).toString());
  console.log(JSON.stringify({ bench: 'store', contents, ...measured, findSeconds }));
} finally {
  rmSync(work, { recursive: true, force: true });
}
