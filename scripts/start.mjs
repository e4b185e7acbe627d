import { mkdirSync, readFileSync, realpathSync, statSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { delimiter, dirname, join, parse, resolve } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { parseArgs } from 'node:util';
import { buildWhereStale } from './build.mjs';
import { installPackages } from './run.mjs';
import { serveHere } from './server.mjs';

const HELP = `npm start -- [--folder DIR]... [--write] [--store DIR] [--port N]

  --folder DIR  serves this folder to the page, and what lies below it; may be given more than once
  --write       the folders may be changed: without it nothing is written, whatever is asked
  --store DIR   keeps what changes need in this folder, without it in the game's folder itself; on another drive files are
                copied there and back, and a build is laid down in place only
  --port N      4173 where it is left out

Without --folder it offers the folders of last time.`;

/** What was served last time; next to a person's other settings. */
const REMEMBERED = join(
  process.env.XDG_STATE_HOME ?? process.env.LOCALAPPDATA ?? join(homedir(), '.local/state'),
  'regressum/start.json',
);

function end(message) {
  console.error(message);
  process.exit(1);
}

/** The real path of a folder that may be served: neither a whole drive nor all that a person has. */
function servable(path) {
  let real;
  try {
    real = realpathSync(resolve(path));
  } catch {
    return end(`There is no folder ${path}.`);
  }
  if (!statSync(real).isDirectory()) end(`${real} is not a folder.`);
  if (real === parse(real).root) end(`${real} is a whole drive. Name the game's folder.`);
  const home = realpathSync(homedir());
  if (home === real || home.startsWith(`${real}/`) || home.startsWith(`${real}\\`))
    end(`${real} holds a person's home. Name the game's folder.`);
  if (real.includes(delimiter)) end(`The path of ${real} has a "${delimiter}" in it, by which folders are told apart.`);
  return real;
}

function remembered() {
  try {
    return JSON.parse(readFileSync(REMEMBERED, 'utf8'));
  } catch {
    return undefined;
  }
}

/** Asks in the terminal whether to serve again what was served last; nowhere else can it be answered. */
async function offered() {
  const last = remembered();
  if (!last?.folders?.length || !process.stdin.isTTY) return undefined;
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  const rights = last.write ? 'read and changed' : 'read';
  const answer = await terminal.question(
    `Last time these could be ${rights}:\n  ${last.folders.join('\n  ')}\nAgain? [y/N] `,
  );
  terminal.close();
  return /^y(es)?$/i.test(answer.trim()) ? last : undefined;
}

let values;
try {
  ({ values } = parseArgs({
    options: {
      folder: { type: 'string', multiple: true, default: [] },
      write: { type: 'boolean', default: false },
      store: { type: 'string' },
      port: { type: 'string', default: process.env.PORT ?? '4173' },
      help: { type: 'boolean', default: false },
    },
  }));
} catch (error) {
  end(`${error.message}\n\n${HELP}`);
}
if (values.help) {
  console.log(HELP);
  process.exit(0);
}
const asked = values.folder.length > 0 ? { ...values, folders: values.folder } : ((await offered()) ?? { folders: [] });
const folders = asked.folders.map(servable);
const store = asked.store && resolve(asked.store);
if (store) mkdirSync(store, { recursive: true });
if (asked.write && folders.length === 0) end(`--write needs a --folder.\n\n${HELP}`);
if (folders.length > 0) {
  mkdirSync(dirname(REMEMBERED), { recursive: true });
  writeFileSync(REMEMBERED, JSON.stringify({ folders, write: asked.write === true, ...(store && { store }) }, null, 2));
}

installPackages();
buildWhereStale();
const address = await serveHere(values.port, {
  REGRESSUM_DEMO: 'no',
  ...(folders.length > 0 && { REGRESSUM_ROOTS: folders.join(delimiter) }),
  ...(asked.write && { REGRESSUM_WRITE: 'yes' }),
  ...(store && { REGRESSUM_STORE: store }),
});
if (folders.length > 0)
  console.log(`\nServed, ${asked.write ? 'and may be changed' : 'to be read only'}:\n  ${folders.join('\n  ')}`);
console.log(`\nRegressum: ${address}  (Ctrl C ends it)\n`);
