import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundled, digits, load, seconds, tell, tool, workFolder } from './kit.mjs';

/*
 * node bench/store.mjs [CONTENTS]
 * Fills a store with CONTENTS (200,000) and measures what it takes to tell what lies there, and to plan against it, with the
 * time that `find` takes to list the same files in the same run; memory above idle. Works in TMPDIR. Prints one line of JSON.
 */
const contents = Number(process.argv[2] ?? '200000');
const work = workFolder('store');
const { fill } = await load(work, 'bench/store-node.ts');
const folder = join(work, 'game');
mkdirSync(folder);
await fill(folder, contents);
const findSeconds = digits(await seconds(() => tool('find', [folder, '-type', 'f', '-printf', '%s\n'])));
// In a process of its own: what filling it took is no part of it.
const module = JSON.stringify(pathToFileURL(await bundled(work, 'bench/store-node.ts')).href);
const script = `import { measure } from ${module}; console.log(JSON.stringify(await measure(${JSON.stringify(folder)})));`;
const measured = JSON.parse(tool(process.execPath, ['--input-type=module', '-e', script]));
tell({ bench: 'store', contents, ...measured, findSeconds });
