import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { load, put, tell, workFolder } from './kit.mjs';

/*
 * node bench/merge.mjs CASES [--out DIR] [--kind text|csv|json|xml|ini]
 * Merges files: each folder in CASES is a case, with the files `base`, `ours` and `theirs`. Writes DIR/CASE/merged where a merge is clean.
 * What is not of the kind (`notOfKind`) is merged as text. Prints one line of JSON; `seconds` are those of reading, merging and writing. Of
 * the other kinds it says besides in how many cases line by line would conflict, and how many of these are clean by the kind.
 */
const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: { out: { type: 'string' }, kind: { type: 'string', default: 'text' } },
});
const [cases] = positionals;
if (!cases) throw new Error('Name a folder of cases.');
const { mergeCsv, mergeIni, mergeJson, mergeText, mergeXml } = await load(workFolder('merge'), 'bench/merge-node.ts');
const merge = { csv: mergeCsv, json: mergeJson, xml: mergeXml, ini: mergeIni, text: undefined }[values.kind];
if (!merge && values.kind !== 'text') throw new Error(`There is no kind ${values.kind}.`);

const names = readdirSync(cases, { withFileTypes: true }).flatMap((entry) => (entry.isDirectory() ? [entry.name] : []));
// Every byte is a sign of its own, so that none is lost whatever the encoding.
const read = (name, side) => readFileSync(join(cases, name, side), 'latin1');
const start = performance.now();
let [clean, conflicts, notOfKind] = [0, 0, 0];
const cleanByKind = new Set();
for (const name of names) {
  const three = ['base', 'ours', 'theirs'].map((side) => read(name, side));
  const structured = merge?.(...three, () => undefined);
  if (merge && !structured) notOfKind++;
  const { merged } = structured ?? mergeText(...three);
  if (merged === undefined) conflicts++;
  else clean++;
  if (structured?.merged !== undefined) cleanByKind.add(name);
  if (merged === undefined || !values.out) continue;
  put(join(values.out, name, 'merged'), Buffer.from(merged, 'latin1'));
}
const seconds = Number(((performance.now() - start) / 1000).toFixed(3));
const inLines = merge
  ? names.filter(
      (name) => mergeText(...['base', 'ours', 'theirs'].map((side) => read(name, side))).merged === undefined,
    )
  : [];
const byLines = {
  notOfKind,
  lineConflicts: inLines.length,
  ofTheseClean: inLines.filter((name) => cleanByKind.has(name)).length,
};
const told = { cases: names.length, clean, conflicts, ...(merge && byLines), seconds };
tell({ bench: 'merge', kind: values.kind, ...told });
