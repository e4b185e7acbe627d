import { createHash } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { put } from './kit.mjs';

/*
 * node bench/large-game.mjs FOLDER [FILES]
 * Writes a made-up game of FILES (100,000) small files into an empty folder, the same each time: for whatever has to be tried at that size,
 * such as a store that an earlier version has filled from it.
 */

/** Paths of the game, each with what gives its bytes. */
export const largeGame = (count) =>
  Array.from({ length: count }, (_, i) => ({
    path: `area-${i % 37}/set-${Math.floor(i / 37) % 53}/file-${i}.dat`,
    bytes: () => {
      const block = createHash('sha512').update(`file ${i}`).digest('hex');
      return Buffer.from(block.repeat(1 + (i % 13)));
    },
  }));

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const [folder, files = '100000'] = process.argv.slice(2);
  if (!folder) throw new Error('Name an empty folder.');
  if (existsSync(folder) && readdirSync(folder).length > 0) throw new Error(`${resolve(folder)} is not empty.`);
  for (const { path, bytes } of largeGame(Number(files))) put(join(folder, path), bytes());
  console.log(`${files} files in ${resolve(folder)}`);
}
