import { spawnSync } from 'node:child_process';
import { bundled, workFolder } from './kit.mjs';

/*
 * node bench/readers.mjs [MB | FILE...]
 * Lets every reader read hostile texts of MB (10) megabytes, or the files of the caller. Each reader has a process of its
 * own; memory is what it took at the most above what the text and the process took before. The reference is the SHA-256 of
 * the same text by the same process. Prints one line of JSON a reader, with the text that took longest and the one that
 * took most memory; with hostile texts also the most that one took beside another of a quarter of its size (`growth`), and ends with 1
 * where that is by more than their length.
 */
const [first = '10', ...more] = process.argv.slice(2);
const texts = /^[\d.]+$/.test(first) ? ['--size', String(Number(first) * 1e6)] : [first, ...more];
const module = await bundled(workFolder('readers'), 'bench/readers-node.ts');
const { readers } = await import(module);
for (const reader of readers) {
  const { status } = spawnSync(process.execPath, ['--expose-gc', module, reader, ...texts], { stdio: 'inherit' });
  if (status !== 0) throw new Error(`${reader} ended with ${status}`);
}
