import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { runToolSilently } from './run.mjs';

/** What the build is made of: a folder's own time tells of files that are gone. */
const SOURCES = [
  ...['app', 'core', 'demo', 'public', 'server'],
  ...['package-lock.json', 'react-router.config.ts', 'tsconfig.base.json', 'tsconfig.json', 'vite.config.ts'],
];
export const BUILT_SERVER = 'build/server/index.js';

/** When what lies at a path was last changed, in milliseconds since 1970; of a folder the latest of all below it. */
function changedAt(path) {
  const status = statSync(path);
  if (!status.isDirectory()) return status.mtimeMs;
  return Math.max(status.mtimeMs, ...readdirSync(path).map((name) => changedAt(join(path, name))));
}

/** @returns why the pages and the server have to be built, in words for a person; nothing where the build is as new as its sources */
export function staleness() {
  if (!existsSync(BUILT_SERVER)) return 'Building the pages and the server, which takes a minute.';
  const builtAt = statSync(BUILT_SERVER).mtimeMs;
  if (SOURCES.every((path) => changedAt(path) <= builtAt)) return undefined;
  return 'The program has changed since it was built. Building it again, which takes a minute.';
}

/** Builds the pages and the server. The bundler and the router have much to say that is of no use to whoever starts the program. */
export const build = () => runToolSilently('react-router', 'build');

if (process.argv[1] === fileURLToPath(import.meta.url)) build();

/** Builds where nothing is built, or something older, and says so. */
export function buildWhereStale() {
  const why = staleness();
  if (why === undefined) return;
  console.log(why);
  build();
}
