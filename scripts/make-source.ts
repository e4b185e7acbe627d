import { createHash, webcrypto } from 'node:crypto';
import {
  closeSync,
  constants,
  existsSync,
  fsyncSync,
  lstatSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  realpathSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { copyFile } from 'node:fs/promises';
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import { parseArgs } from 'node:util';
import { type DepotIndex, DepotIndexSchema, type Game } from '#core/builds';
import type { Compressor, Effort } from '#core/bundles';
import { inLanes } from '#core/calls';
import { PIECE_SIZE } from '#core/digest';
import { type Failure, isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { type ManifestFile, parseMetalink } from '#core/manifest';
import { PathSet } from '#core/paths';
import {
  buildsToBridge,
  bundleIndexPath,
  bundlePath,
  filesPath,
  GameFileSchema,
  leftOut,
  type MadeBundle,
  type MadeSource,
  makeSource,
  type NewDepot,
  withBundles,
} from '#core/sources';
import { type LyingDepot, makeBundle } from './make-bundles';

/* npm run make-source: see HELP. */

const HELP = `npm run make-source -- --game GAME.json --label LABEL --date 2026-01-31 --on BRANCH
                       --from DEPOT=FOLDER [--from DEPOT=FOLDER ...] [--kind DEPOT=KIND] [--with PATH ...]
                       [--with-files [--strongest | --plain] [--between LABEL ...]] --to FOLDER

Makes a source of builds that any static web server can hold: an index and a manifest for each depot. Run again with
another build and the same --to, it adds the build to what is there.

  --game GAME.json     the game, as Regressum exports it
  --label LABEL        what the build is called
  --date DATE          when it came out, such as 2026-01-31
  --on BRANCH          the branch that it came out on
  --from DEPOT=FOLDER  a depot and the folder with its files, in laying order: what comes later is laid over the others
  --kind DEPOT=KIND    core (where it is left out), program, world, optional, add-on, or language:CODE
  --with PATH          a file that comes with the build though the game's rules name it as the player's: settings that ship, say
  --with-files         copies the files as well, and puts them into bundles, compressed: those of each depot, and what is new of it against
                       the builds beside it and the heads of branches, both ways. Without it only manifests are made, which have no byte
                       of the game
  --between LABEL      bundles what is new between this build and that one too, both ways
  --strongest          compresses as far as it goes, at a tenth of the speed or less
  --plain              makes no bundles
  --to FOLDER          where the source goes

Saves, settings, own content and mods are left out by the game's rules, and links always.`;

class Refused extends Error {}
function refuse(message: string): never {
  throw new Refused(message);
}

const sha256 = async (data: string | Uint8Array): Promise<string> => createHash('sha256').update(data).digest('hex');

/** Every plain file below a folder, sorted; what is a link is passed over, since it leads elsewhere. */
function filesBelow(folder: string, below = ''): string[] {
  return readdirSync(join(folder, below), { withFileTypes: true }).flatMap((entry) => {
    const path = below === '' ? entry.name : `${below}/${entry.name}`;
    if (entry.isDirectory()) return filesBelow(folder, path);
    return entry.isFile() ? [path] : [];
  });
}

const buffer = Buffer.alloc(PIECE_SIZE);

/** Size and digests of a file, read once, a piece at a time; other files are read meanwhile. */
async function describe(folder: string, path: string): Promise<ManifestFile> {
  const fd = openSync(join(folder, path), constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0));
  try {
    const whole = createHash('sha256');
    const pieces: string[] = [];
    let size = 0;
    for (;;) {
      let filled = 0;
      for (let read = 1; filled < PIECE_SIZE && read > 0; filled += read)
        read = readSync(fd, buffer, filled, PIECE_SIZE - filled, size + filled);
      const piece = buffer.subarray(0, filled);
      // The platform takes the bytes over at once, and hashes in threads of its own.
      const digest = webcrypto.subtle.digest('SHA-256', piece);
      if (size + filled >= PIECE_SIZE) whole.update(piece);
      if (filled > 0 || size === 0) pieces.push(Buffer.from(await digest).toString('hex'));
      size += filled;
      // A file that is one piece has that piece's digest.
      if (size < PIECE_SIZE) return { path, size, sha256: pieces[0]!, pieces };
      if (filled < PIECE_SIZE) return { path, size, sha256: whole.digest('hex'), pieces };
    }
  } finally {
    closeSync(fd);
  }
}

/** Puts a text in place whole: whoever reads sees the old one or the new. */
function put(path: string, text: string): void {
  mkdirSync(dirname(path), { recursive: true });
  const fresh = `${path}.fresh`;
  writeFileSync(fresh, text);
  const fd = openSync(fresh, 'r');
  fsyncSync(fd);
  closeSync(fd);
  renameSync(fresh, path);
}

const isInside = (path: string, folder: string): boolean => {
  const way = relative(folder, path);
  return way === '' || (way !== '..' && !way.startsWith(`..${sep}`) && !isAbsolute(way));
};

/** The real path of what may not be there yet: of as much of it as is. */
const realOf = (path: string): string =>
  existsSync(path) ? realpathSync(path) : join(realOf(dirname(path)), relative(dirname(path), path));

function pairOf(text: string, option: string): [string, string] {
  const at = text.indexOf('=');
  if (at < 1 || at === text.length - 1)
    refuse(`--${option} ${text}: write it as DEPOT=${option === 'from' ? 'FOLDER' : 'KIND'}.`);
  return [text.slice(0, at), text.slice(at + 1)];
}

const KINDS = ['core', 'program', 'world', 'optional', 'add-on'] as const;

function kindOf(said: string | undefined, depot: string): Pick<NewDepot, 'kind' | 'language'> {
  if (said === undefined) return { kind: 'core' };
  if (said.startsWith('language:')) return { kind: 'language', language: said.slice('language:'.length) };
  const kind = KINDS.find((one) => one === said) ?? refuse(`--kind ${depot}=${said}: ${said} is no kind of depot.`);
  return { kind };
}

function readGame(path: string): Game {
  const { id, title, rules } = parseJson(readFileSync(path, 'utf8'), GameFileSchema, path);
  return { id, title, rules };
}

/** Files that are named of those that are left out. */
const MOST_NAMED = 5;

/** What goes into a depot of its folder, by paths: nothing that is the player's own. */
function depotPaths(
  game: Game,
  {
    depot,
    folder,
    shipped,
  }: { readonly depot: string; readonly folder: string; readonly shipped: ReadonlySet<string> },
  say: (text: string) => void,
): string[] {
  const all = filesBelow(folder).sort();
  const some = all.filter((path) => leftOut(game, path, (one) => shipped.has(one)) === undefined);
  const names = new PathSet();
  for (const path of some) names.add(path);
  if (some.length === 0) refuse(`${folder} has no file for ${depot}.`);
  const left = all.filter((path) => leftOut(game, path, (one) => shipped.has(one)) === 'own');
  if (all.length > some.length)
    say(`${depot}: ${all.length - some.length} files of your own, or of mods, are left out`);
  if (left.length > 0)
    say(
      `${depot}: yours by the rules: ${left.slice(0, MOST_NAMED).join(', ')}${left.length > MOST_NAMED ? ', ...' : ''} (--with names what ships)`,
    );
  return some;
}

/** Files that are read at a time. */
const READ_AT_ONCE = 8;

/**
 * Reads the files of a depot.
 * @param to where they are copied to: what is read then is the copy, so that it is what the manifest says
 */
async function depotFiles(
  { id, folder, paths }: { readonly id: string; readonly folder: string; readonly paths: readonly string[] },
  to: string | undefined,
  say: (text: string) => void,
): Promise<ManifestFile[]> {
  const files: ManifestFile[] = [];
  let [read, bytes, told] = [0, 0, 0];
  let made = '';
  await inLanes([...paths.entries()], READ_AT_ONCE, { gate: () => undefined }, async ([i, path]) => {
    if (to !== undefined) {
      const copy = join(to, path);
      if (made !== dirname(copy)) mkdirSync((made = dirname(copy)), { recursive: true });
      await copyFile(join(folder, path), copy, constants.COPYFILE_FICLONE);
    }
    const file = await describe(to ?? folder, path);
    files[i] = file;
    read += 1;
    bytes += file.size;
    if (Date.now() - told <= 500 && read < paths.length) return;
    told = Date.now();
    say(`${id}: ${read} of ${paths.length} files, ${(bytes / 1e6).toFixed(1)} MB`);
  });
  return files;
}

/** A level finds what has shifted, in data that cannot be compressed, as far as its tables reach: this one about three megabytes. */
const USUAL: Effort = { level: 7, wholeLevel: 4, lookBack: 1 << 20 };
const STRONGEST: Effort = { level: 19, wholeLevel: 19, lookBack: 4 << 20 };

export type Threads = Compressor & { readonly end: () => Promise<unknown> };

/** Bundles that are made at a time: what one leaves idle at its end the other takes. */
const MADE_AT_ONCE = 2;

interface Bundling {
  readonly real: string;
  readonly threads: Compressor;
  readonly effort: Effort;
  readonly say: (text: string) => void;
  /** Gets the paths of what is written, so that it is gone if anything fails. */
  readonly made: string[];
}

/** Bundles the depots of a new build, and the ways between it and the `others`. */
async function bundlesOf(
  index: DepotIndex,
  label: string,
  others: readonly string[],
  { real, threads, effort, say, made }: Bundling,
): Promise<MadeBundle[]> {
  const lying = (build: string, depot: string): LyingDepot | undefined => {
    const entry = index.manifests.find((one) => one.build === build && one.depot === depot);
    const folder = entry && join(real, filesPath(build, depot));
    if (!entry || entry.filesHref === '' || !existsSync(folder!)) return undefined;
    const manifest = parseMetalink(readFileSync(join(real, entry.href), 'utf8'), entry.build, entry.depot, entry.href);
    return { manifest, sha256: entry.sha256, folder: folder! };
  };
  const bundles: MadeBundle[] = [];
  const make = async ([depot, base]: readonly [LyingDepot, LyingDepot?]): Promise<void> => {
    const path = bundlePath(depot.manifest.build, depot.manifest.depot, base?.manifest.build);
    made.push(join(real, path), join(real, bundleIndexPath(path)));
    const bundle = await makeBundle(real, depot, base, threads, effort);
    if (!bundle) return;
    bundles.push(bundle);
    const what = base ? `from ${base.manifest.build} to ${bundle.build}` : bundle.build;
    say(`${bundle.depot}: ${what} in ${(bundle.bytes / 1e6).toFixed(1)} MB`);
  };
  for (const { id } of index.depots) {
    const own = lying(label, id);
    if (!own) continue;
    const theirs = others.flatMap((other) => lying(other, id) ?? []);
    const ways = [[own] as const, ...theirs.flatMap((one) => [[own, one] as const, [one, own] as const])];
    await inLanes(ways, MADE_AT_ONCE, { gate: () => undefined }, make);
  }
  return bundles;
}

/** @throws Refused, Failure */
async function main(argv: string[], say: (text: string) => void, threads: () => Threads): Promise<void> {
  const { values } = parseArgs({
    args: argv,
    options: {
      ...{ game: { type: 'string' }, label: { type: 'string' }, date: { type: 'string' }, on: { type: 'string' } },
      ...{ from: { type: 'string', multiple: true }, kind: { type: 'string', multiple: true }, to: { type: 'string' } },
      ...{ 'with-files': { type: 'boolean', default: false }, help: { type: 'boolean', default: false } },
      ...{ plain: { type: 'boolean', default: false }, strongest: { type: 'boolean', default: false } },
      ...{ between: { type: 'string', multiple: true }, with: { type: 'string', multiple: true } },
    } as const,
  });
  if (values.help) return say(HELP);
  const need = (name: 'game' | 'label' | 'date' | 'on' | 'to'): string =>
    values[name] ?? refuse(`--${name} is missing.\n\n${HELP}`);
  const [label, date, branch, to] = [need('label'), need('date'), need('on'), resolve(need('to'))];
  if (!values.from?.length) refuse(`--from is missing.\n\n${HELP}`);
  for (const option of ['plain', 'strongest', 'between'] as const)
    if (values[option] && !values['with-files']) refuse(`--${option} needs --with-files.`);
  if (values.plain && (values.strongest || values.between))
    refuse('--plain makes no bundles: leave out what is about them.');
  const game = readGame(need('game'));
  const kinds = new Map((values.kind ?? []).map((text) => pairOf(text, 'kind')));
  const sources = values.from.map((text): [string, string] => {
    const [depot, folder] = pairOf(text, 'from');
    if (!existsSync(folder) || !lstatSync(realpathSync(folder)).isDirectory()) refuse(`There is no folder ${folder}.`);
    return [depot, realpathSync(folder)];
  });
  const real = realOf(to);
  for (const [depot, folder] of sources) {
    if (isInside(real, folder) || isInside(folder, real))
      refuse(`${to} and the folder of ${depot} lie in one another. Choose another --to.`);
    if (sources.filter(([other]) => other === depot).length > 1) refuse(`--from names ${depot} twice.`);
  }
  const indexPath = join(real, 'index.json');
  const before = existsSync(indexPath)
    ? parseJson(readFileSync(indexPath, 'utf8'), DepotIndexSchema, indexPath)
    : undefined;
  if (before && before.game.id !== game.id) refuse(`${to} is a source of ${before.game.title}, not of ${game.title}.`);
  const between = values.between ?? [];
  for (const other of between)
    if (!before?.builds.some((build) => build.label === other)) refuse(`--between ${other}: ${to} has no such build.`);
  if (before?.builds.some((build) => build.label === label)) refuse(`${to} has a build ${label} already.`);
  for (const path of values.with ?? [])
    if (!sources.some(([, folder]) => existsSync(join(folder, path))))
      refuse(`--with ${path}: no depot has such a file.`);
  const shipped = new Set(values.with);
  const found = sources.map(([id, folder]) => ({
    ...{ id, folder, paths: depotPaths(game, { depot: id, folder, shipped }, say), ...kindOf(kinds.get(id), id) },
  }));
  const has = values['with-files'] ? 'files' : 'manifests';
  const sourceOf = (depots: readonly NewDepot[]): Promise<MadeSource> =>
    makeSource(before, game, { label, date, branch }, depots, { sha256, has });
  // What cannot be is refused before anything is written.
  await sourceOf(found.map((depot) => ({ ...depot, files: [] })));
  // They get ready while files are read.
  const compressing = values['with-files'] && !values.plain ? threads() : undefined;
  const made: string[] = [];
  let index: DepotIndex;
  try {
    const depots: NewDepot[] = [];
    for (const { folder, paths, ...depot } of found) {
      const copies = values['with-files'] ? join(real, filesPath(label, depot.id)) : undefined;
      if (copies !== undefined) made.push(copies);
      depots.push({ ...depot, files: await depotFiles({ id: depot.id, folder, paths }, copies, say) });
    }
    const source = await sourceOf(depots);
    ({ index } = source);
    for (const [path, text] of source.manifests) {
      made.push(join(real, path));
      put(join(real, path), text);
    }
    const effort = values.strongest ? STRONGEST : USUAL;
    const others = [...new Set([...buildsToBridge(index, label), ...between])];
    const bundles = compressing
      ? await bundlesOf(index, label, others, { real, threads: compressing, effort, say, made })
      : [];
    // Last: until then nobody knows of the new build.
    put(indexPath, `${JSON.stringify(withBundles(index, bundles), null, 2)}\n`);
  } catch (error) {
    for (const path of made) rmSync(path, { recursive: true, force: true });
    throw error;
  } finally {
    await compressing?.end();
  }
  const { length } = index.builds;
  say(`${length} ${length === 1 ? 'build' : 'builds'} of ${game.title} in ${to}`);
}

const words = ({ code, facts }: Failure): string =>
  `${code}: ${Object.entries(facts)
    .map(([name, fact]) => `${name} ${fact}`)
    .join(', ')}`;

/**
 * Runs the command.
 * @param threads what compresses, asked for where something is to be compressed
 * @returns the exit code
 */
export async function run(argv: string[], threads: () => Threads): Promise<number> {
  try {
    await main(argv, (text) => console.log(text), threads);
    return 0;
  } catch (error) {
    if (error instanceof Refused) console.error(error.message);
    else if (isFailure(error)) console.error(words(error));
    else if (error instanceof TypeError && 'code' in error) console.error(`${error.message}\n\n${HELP}`);
    else if (error instanceof Error && 'syscall' in error) console.error(error.message);
    else throw error;
    return 1;
  }
}
