import { realpathSync } from 'node:fs';
import { join } from 'node:path';
import { digits, end, load, median, putFiles, seconds, startServer, tell, TOKEN, tool, workFolder } from './kit.mjs';

/*
 * node bench/served.mjs [FILES | FOLDER]
 * Hashes a folder through the running server as the job that surveys does: FOLDER, or FILES (20,000) of 2 to 256 KiB,
 * against two `openssl dgst -sha256` that share the same files, in turn, in the same run. Needs a build. Prints one line
 * of JSON.
 */
const ROUNDS = 3;
const PORT = 4186;
const [argument = '20000'] = process.argv.slice(2);
const work = workFolder('served');
const isGiven = !/^\d+$/.test(argument);
const root = isGiven ? realpathSync(argument) : join(work, 'root');
// Sizes spread evenly over the steps from 2 to 256 KiB.
if (!isGiven) putFiles(root, Number(argument), (at) => 2048 * 2 ** (7 * at));

const { openServed, hashAll } = await load(work, 'bench/served-node.ts');
await startServer(PORT, { roots: root, REGRESSUM_WRITE: 'no' });
const folder = openServed(`http://127.0.0.1:${PORT}`, root, TOKEN);
const entries = await folder.list();
const bytes = entries.reduce((sum, { size }) => sum + size, 0);
const input = entries.map(({ path }) => join(root, path)).join('\0');
const half = String(Math.ceil(entries.length / 2));
const [ours, theirs] = [[], []];
for (let i = 0; i < ROUNDS; i++) {
  ours.push(
    await seconds(async () => {
      const hashed = await hashAll(folder, entries);
      if (hashed < entries.length) throw new Error(`${entries.length - hashed} files could not be hashed`);
    }),
  );
  theirs.push(
    await seconds(() => tool('xargs', ['-0', '-P', '2', '-n', half, 'openssl', 'dgst', '-sha256'], { input })),
  );
}
tell({
  ...{ bench: 'served', files: entries.length, bytes, MBperSecond: digits(bytes / 1e6 / median(ours)) },
  timesTwoOpenssl: digits(median(ours.map((own, i) => theirs[i] / own))),
});
end();
