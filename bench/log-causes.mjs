import { chance } from './chance.mjs';
import { digits, load, seconds, tell, workFolder } from './kit.mjs';

/*
 * node bench/log-causes.mjs [LOGS] [SEED] [MEGABYTES]
 * Reads LOGS (100) made-up logs in which one thing went wrong, told in the words of many kinds of programs, and as many in which all went
 * well, and says of how many the cause was named right, mod and file included, and of how many one was named though there was none. Then a
 * log of MEGABYTES (50), with the time of `split` into lines beside it. Prints one line of JSON; ends with 1 below 95 of 100, or where
 * a cause is named that there is not. MISSED=yes tells the lines that were not understood.
 */
const [wantedLogs = '100', seed = '1', megabytes = '50'] = process.argv.slice(2);
const LOGS = Number(wantedLogs);
const { causesIn } = await load(workFolder('log-causes'), 'bench/log-causes-node.ts');
const { next, upTo, one } = chance(seed);

const FIRST = [
  'amber',
  'birch',
  'copper',
  'dusk',
  'elder',
  'flint',
  'gorse',
  'hazel',
  'iron',
  'juniper',
  'kelp',
  'larch',
];
const SECOND = [
  'lanterns',
  'harvest',
  'roads',
  'markets',
  'winters',
  'masonry',
  'orchards',
  'tides',
  'voices',
  'saddles',
];
const capital = (word) => word[0].toUpperCase() + word.slice(1);

/** A game with mods: their names, and where their files are. */
function world() {
  const root = one(['mods', 'addons', 'data/packages', 'plugins']);
  const pairs = new Map();
  while (pairs.size < 26) {
    const [a, b] = [one(FIRST), one(SECOND)];
    pairs.set(`${a}-${b}`, {
      id: `${a}-${b}`,
      name: next() < 0.5 ? `${capital(a)} ${b}` : `${capital(a)} ${capital(b)}`,
    });
  }
  const all = [...pairs.values()];
  const mods = all.slice(0, 20).map(({ id, name }) => ({
    ...{ id, name },
    paths: [`main.lua`, `data/${id.split('-')[1]}.csv`, `${id}.dll`, `text/en.json`].map(
      (path) => `${root}/${id}/${path}`,
    ),
  }));
  mods.push({ id: 'windlass', name: 'Windlass', paths: [`${root}/windlass/windlass.dll`] });
  return {
    ...{
      root,
      mods,
      absent: all.slice(20).map((mod) => ({ ...mod, paths: [`${root}/${mod.id}/main.lua`] })),
      program: 'bin/hollow.exe',
      loader: 'windlass',
    },
    isVanilla: (path) => /^assets\/pack-\d+\.pak$/.test(path),
  };
}

const STAMPS = [
  (t) => `[${10 + (t % 12)}:${10 + (t % 50)}:${10 + ((t * 7) % 50)}] `,
  (t) => `2026-03-${10 + (t % 18)}T08:${10 + (t % 50)}:00.${100 + (t % 900)}Z INFO  `,
  (t) => `${(t * 0.013).toFixed(3)} | `,
  () => '',
  (t) => `<${t}> [main] `,
];
const LEVELS = ['', 'ERROR: ', '[ERR] ', 'warn: ', 'E/', '(!) ', 'SEVERE '];

/** Lines of a start in which all is well. */
const USUAL = [
  ({ mods }) => `Loaded ${one(mods).name} in ${upTo(400)} ms`,
  ({ mods }) => `${one(mods).id}: registered ${upTo(60)} items`,
  ({ mods, root }) => `mounting ${root}/${one(mods).id}`,
  () => `streaming assets/pack-${upTo(40)}.pak (${upTo(9000)} kB)`,
  () => `audio device opened: 48000 Hz, 2 channels`,
  () => `shader cache: ${upTo(900)} hits, ${upTo(9)} to compile`,
  () => `no errors in ${upTo(300)} scripts`,
  () => `checking requirements: all satisfied`,
  ({ mods }) => `${one(mods).name}: settings read, version ${upTo(4)}.${upTo(9)}`,
  () => `frame time ${upTo(30)}.${upTo(9)} ms`,
  () => `autosave ${upTo(90)} written`,
  ({ mods }) => `resolving dependencies of ${one(mods).name}: ok`,
  () => `network: offline, retry in 30 s`,
  ({ mods }) => `${one(mods).id} overrides ${upTo(12)} textures`,
];

/** What goes wrong, in words of many. Each tells what is to be found. */
const WRONG = {
  'requirement-missing': ({ mods, absent, root }) => {
    const [mod, other] = [one(mods.slice(0, 20)), one(absent)];
    const text = one([
      `${mod.name} could not be started: ${other.name} is missing`,
      `Dependency resolution failed for ${mod.id}: no provider for ${other.id}`,
      `Mod '${mod.name}' needs mod '${other.name}' (1.2 or later)`,
      `${root}/${mod.id}: required package ${other.id} was not found`,
      `${mod.id} -> ${other.id}: unresolved dependency`,
      `Skipped ${mod.name} (prerequisite ${other.name} not installed)`,
      `load order problem: ${mod.name} depends on ${other.name}, which is absent`,
      `Please install ${other.name}, it is required by ${mod.name}`,
    ]);
    return { text, mod: mod.id, other: other.id };
  },
  'wrong-version': ({ mods }) => {
    const mod = one(mods.slice(0, 20));
    const text = one([
      `${mod.name} was made for game version 1.${upTo(9)}, this is 2.0`,
      `${mod.id}: interface version ${upTo(9)} too old`,
      `refusing to load ${mod.name}: built against 0x${upTo(9)}41, running 0x951`,
      `${mod.name} is incompatible with this version of the game`,
      `Plugin ${mod.id} reports unsupported API level ${upTo(30)}`,
      `version check failed: ${mod.name} expects 3.1, got 3.4`,
      `${mod.name} is outdated: it supports builds up to 4417`,
      `${mod.id}.dll compiled for another version`,
    ]);
    return { text, mod: mod.id };
  },
  'program-unknown': () => {
    const text = one([
      `Windlass: unrecognized executable hollow.exe, hooks are off`,
      `bin/hollow.exe has an unknown checksum 9f1c22ab`,
      `hash of hollow.exe not in table, cannot hook`,
      `this build of hollow.exe is not supported by Windlass`,
      `Unsupported game binary (hollow.exe, 5d31)`,
      `hollow.exe: digest mismatch, expected 11aa33, got 9f1c22`,
    ]);
    return { text, mod: 'windlass' };
  },
  'file-missing': ({ mods }) => {
    const mod = one(mods.slice(0, 20));
    const path = next() < 0.3 ? `assets/pack-${upTo(40)}.pak` : one(mod.paths);
    const backslashed = path.replaceAll('/', '\\');
    const text = one([
      `Failed to open file: ${path}`,
      `fopen("${path}") failed: No such file or directory`,
      `D:\\Games\\Hollow\\${backslashed} not found`,
      `could not read ${backslashed} (error 2)`,
      `${path}: cannot be opened`,
      `Missing file ${path}`,
      `unable to locate resource '${path}'`,
      `FileNotFound: ${path}`,
    ]);
    return { text, mod: mod.paths.includes(path) ? mod.id : undefined, path };
  },
  'file-twice': ({ mods }) => {
    const [a, b] = [mods[upTo(10)], mods[10 + upTo(10)]];
    const text = one([
      `${a.name} and ${b.name} both define item 'lamp_${upTo(90)}' (duplicate)`,
      `Duplicate key lamp_${upTo(90)}: first in ${a.id}, again in ${b.id}`,
      `${a.name} conflicts with ${b.name}`,
      `${a.id}: texture already provided by ${b.id}`,
      `conflict between ${a.name} and ${b.name}: same archive entry`,
      `${a.paths[1]} is overwritten by ${b.paths[1]}`,
    ]);
    return { text, mod: a.id, other: b.id };
  },
  'error-in-mod': ({ mods }) => {
    const mod = one(mods.slice(0, 20));
    const text = one([
      `${mod.paths[0]}:${upTo(400)}: attempt to call a nil value`,
      `Unhandled exception in ${mod.name}: index out of range`,
      `  at ${mod.paths[0]} line ${upTo(400)} (stack traceback)`,
      `Access violation in ${mod.id}.dll+0x${upTo(9000).toString(16)}`,
      `syntax error near 'end' in ${mod.paths[0].replaceAll('/', '\\')}`,
      `script ${mod.paths[0]} aborted after 5 s`,
      `${mod.name} threw NullReference in OnTick`,
      `${mod.paths[3]}: parse error at line 7, column 2`,
    ]);
    return { text, mod: mod.id };
  },
  'list-empty': () => ({
    text: one([
      'no plugins enabled in list, nothing to do',
      'load list is empty',
      'Found 0 mods',
      'mod list empty, continuing without mods',
      '0 plugins to load',
      'there are no active mods',
    ]),
  }),
  'loader-absent': () => ({ text: undefined, mod: 'windlass' }),
};

/** A log of a start. @returns its text, and what is to be found in it */
function log(known, cause) {
  const [stamp, from] = [one(STAMPS), upTo(1000)];
  const said = (text, level = '') => `${stamp(from + lines.length)}${level}${text}`;
  const lines = [];
  if (cause !== 'loader-absent') lines.push(said('Windlass 4.1 attached'));
  const length = 80 + upTo(900);
  const quiet = cause === 'loader-absent' ? { ...known, mods: known.mods.slice(0, 20) } : known;
  while (lines.length < length) lines.push(said(one(USUAL)(quiet)));
  const wrong = cause && WRONG[cause](known);
  if (wrong?.text !== undefined) lines.splice(20 + upTo(length - 20), 0, said(wrong.text, one(LEVELS)));
  return { text: lines.join(one(['\n', '\r\n'])), wrong };
}

const CAUSES = Object.keys(WRONG);
const told = { right: 0, named: 0, missed: {} };
for (let i = 0; i < LOGS; i++) {
  const [known, cause] = [world(), CAUSES[i % CAUSES.length]];
  const { text, wrong } = log(known, cause);
  const { findings } = causesIn(text, known);
  const [found] = findings;
  const isRight =
    findings.length === 1 &&
    found.cause === cause &&
    found.mod === wrong.mod &&
    (wrong.other === undefined || found.other === wrong.other) &&
    (wrong.path === undefined || found.path === wrong.path);
  if (isRight) told.right += 1;
  else {
    told.missed[cause] = (told.missed[cause] ?? 0) + 1;
    if (process.env.MISSED) console.error(cause, '|', wrong.text, '|', JSON.stringify(findings.slice(0, 2)));
  }
  const well = log(known, undefined);
  const none = causesIn(well.text, known).findings;
  if (none.length > 0) {
    told.named += 1;
    if (process.env.MISSED) console.error('NONE', JSON.stringify(none.slice(0, 2)));
  }
}

const known = world();
const pieces = [];
for (let size = 0; size < Number(megabytes) * 1e6;) {
  const { text } = log(known, one(CAUSES));
  pieces.push(text);
  size += text.length;
}
const large = pieces.join('\n');
const splitSeconds = await seconds(() => large.split('\n').filter((line) => line.trimEnd() !== '').length);
const readSeconds = await seconds(() => causesIn(large, known));
tell({
  ...{ logs: LOGS, right: told.right, namedWithoutCause: told.named, missed: told.missed },
  ...{ megabytes: digits(large.length / 1e6), seconds: digits(readSeconds), splitSeconds: digits(splitSeconds) },
});
if (told.right < LOGS * 0.95 || told.named > 0) process.exitCode = 1;
