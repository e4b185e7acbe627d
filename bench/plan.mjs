import { mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/plan.mjs [FILES]
 * Plans a way back between two builds of FILES (100,000) files, of which a fifth has changed, by the index of a bundle. Prints one line of JSON:
 * seconds of planning, the most memory above what the manifests take, and for comparison the seconds that reading the two manifests takes.
 */
const files = Number(process.argv[2] ?? 100_000);
const work = mkdtempSync(join(tmpdir(), 'regressum-plan-'));
symlinkSync(resolve('node_modules'), join(work, 'node_modules'));
writeFileSync(join(work, 'plan-node.mjs'), await bundle('bench/plan-node.ts', { forNode: true }));
const { setUp, plan } = await import(pathToFileURL(join(work, 'plan-node.mjs')).href);
const made = await setUp(files);
globalThis.gc?.();
const idle = process.memoryUsage().rss;
let most = idle;
const look = () => (most = Math.max(most, process.memoryUsage().rss));
const watch = setInterval(look, 5);
const start = performance.now();
const told = await plan(made);
const seconds = (performance.now() - start) / 1000;
look();
clearInterval(watch);
console.log(
  JSON.stringify({
    ...{ bench: 'plan', files, seconds: Number(seconds.toFixed(2)), readSeconds: Number(made.readSeconds.toFixed(2)) },
    ...{ peakMB: Math.round((most - idle) / 1e6), indexBytes: made.indexBytes, ...told },
  }),
);
rmSync(work, { recursive: true, force: true });
