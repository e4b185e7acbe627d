import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../scripts/bundle.mjs';

/*
 * node bench/archives.mjs DIR [GAME [FOLDER]]
 * Reads every archive below DIR whole, as the shelf does: unpacked, hashed, recognised, placed by the rules of GAME (a game's file) and
 * the files of FOLDER (the game's own). Beside it unzip and tar unpack those of their kinds into TMPDIR, archive by archive in turn.
 * Prints one line of JSON: `timesUnpacking` is their time divided by ours over the same archives, `peakMB` what the process used at the
 * most.
 */
const [dir, gameFile, folder] = process.argv.slice(2);
if (!dir) throw new Error('Name a folder of archives.');
const work = mkdtempSync(join(tmpdir(), 'regressum-archives-'));
const module = join(work, 'archives-node.mjs');
writeFileSync(module, await bundle('bench/archives-node.ts', { forNode: true }));
// What unpacks in memory is asked for as any part of the application is.
const wasm = readFileSync(new URL('../node_modules/libarchive-wasm/dist/libarchive.wasm', import.meta.url));
globalThis.fetch = async () => new Response(wasm);
const { filesBelow, look, place } = await import(pathToFileURL(module).href);

const TOOLS = [
  [/\.zip$/i, (path, to) => ['unzip', '-qo', path, '-d', to]],
  [/\.(?:tar|tgz|tar\.(?:gz|bz2|xz|zst)|txz)$/i, (path, to) => ['tar', '-xf', path, '-C', to]],
];
const toolFor = (path, to) => TOOLS.find(([name]) => name.test(path))?.[1](path, to);

const refused = {};
const archives = [];
let [ours, compared, theirs, bytes, packed] = [0, 0, 0, 0, 0];
try {
  const names = filesBelow(dir).sort();
  for (const name of names) {
    const path = join(dir, name);
    const start = performance.now();
    const looked = await look(path, name);
    const seconds = (performance.now() - start) / 1000;
    ours += seconds;
    packed += statSync(path).size;
    if ('code' in looked) {
      refused[looked.code] = (refused[looked.code] ?? 0) + 1;
      continue;
    }
    archives.push(looked.read);
    bytes += looked.bytes;
    const to = mkdtempSync(join(work, 'out-'));
    const command = toolFor(path, to);
    if (command) {
      const begin = performance.now();
      if (spawnSync(command[0], command.slice(1), { stdio: 'ignore' }).status === 0) {
        theirs += (performance.now() - begin) / 1000;
        compared += seconds;
      }
    }
    execFileSync('rm', ['-rf', to]);
  }
  const rules = gameFile ? JSON.parse(readFileSync(gameFile, 'utf8')).rules : {};
  const begin = performance.now();
  const { placed, asked } = place(archives, rules, folder ? filesBelow(folder) : []);
  const digits = (n) => Number(n.toFixed(2));
  console.log(
    JSON.stringify({
      ...{ bench: 'archives', archives: names.length, read: archives.length, refused },
      ...{ packedMB: digits(packed / 1e6), unpackedMB: digits(bytes / 1e6), seconds: digits(ours) },
      ...{ placed, asked, placingSeconds: digits((performance.now() - begin) / 1000) },
      timesUnpacking: compared > 0 ? digits(theirs / compared) : null,
      peakMB: Math.round(process.resourceUsage().maxRSS / 1000),
    }),
  );
} finally {
  rmSync(work, { recursive: true, force: true });
}
