import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/merge.mjs CASES [--out DIR]
 * Merges texts: each folder in CASES is a case, with the files `base`, `ours` and `theirs`. Writes DIR/CASE/merged where a merge is clean.
 * Prints one line of JSON; `seconds` are those of reading, merging and writing.
 */
const { positionals, values } = parseArgs({ allowPositionals: true, options: { out: { type: 'string' } } });
const [cases] = positionals;
if (!cases) throw new Error('Name a folder of cases.');
const work = mkdtempSync(join(tmpdir(), 'regressum-merge-'));
const module = join(work, 'merge-node.mjs');
writeFileSync(module, await bundle('bench/merge-node.ts', { forNode: true }));
const { mergedText, mergeText } = await import(pathToFileURL(module).href);
rmSync(work, { recursive: true });

const names = readdirSync(cases, { withFileTypes: true }).flatMap((entry) => (entry.isDirectory() ? [entry.name] : []));
// Every byte is a sign of its own, so that none is lost whatever the encoding.
const read = (name, side) => readFileSync(join(cases, name, side), 'latin1');
const start = performance.now();
let [clean, conflicts] = [0, 0];
for (const name of names) {
  const merged = mergedText(mergeText(read(name, 'base'), read(name, 'ours'), read(name, 'theirs')));
  if (merged === undefined) conflicts++;
  else clean++;
  if (merged === undefined || !values.out) continue;
  mkdirSync(join(values.out, name), { recursive: true });
  writeFileSync(join(values.out, name, 'merged'), merged, 'latin1');
}
const seconds = Number(((performance.now() - start) / 1000).toFixed(3));
console.log(JSON.stringify({ bench: 'merge', kind: 'text', cases: names.length, clean, conflicts, seconds }));
