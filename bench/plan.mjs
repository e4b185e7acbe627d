import { mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/plan.mjs [FILES]
 * Plans a way back between two builds of FILES (100,000) files, of which a fifth has changed, by the index of a bundle. Prints one line of JSON:
 * seconds of planning, the most memory above what the manifests take, and for comparison the seconds that reading the two manifests takes.
 * Needs Linux, which tells the memory.
 */
const files = Number(process.argv[2] ?? 100_000);
const work = mkdtempSync(join(tmpdir(), 'regressum-plan-'));
symlinkSync(resolve('node_modules'), join(work, 'node_modules'));
writeFileSync(join(work, 'plan-node.mjs'), await bundle('bench/plan-node.ts', { forNode: true }));
const { setUp, plan } = await import(pathToFileURL(join(work, 'plan-node.mjs')).href);
const made = await setUp(files);
// What setting up has left behind is no part of it, and neither is the most that it took.
setFlagsFromString('--expose-gc');
for (let i = 0; i < 3; i++) runInNewContext('gc')();
const kilobytes = (name) =>
  Number(new RegExp(`^${name}:\\s+(\\d+)`, 'm').exec(readFileSync('/proc/self/status', 'utf8'))[1]);
writeFileSync('/proc/self/clear_refs', '5');
const idle = kilobytes('VmRSS');
const start = performance.now();
const told = await plan(made);
const seconds = (performance.now() - start) / 1000;
const peakMB = Math.round(((kilobytes('VmHWM') - idle) * 1024) / 1e6);
console.log(
  JSON.stringify({
    ...{ bench: 'plan', files, seconds: Number(seconds.toFixed(2)), readSeconds: Number(made.readSeconds.toFixed(2)) },
    ...{ peakMB, indexBytes: made.indexBytes, ...told },
  }),
);
rmSync(work, { recursive: true, force: true });
