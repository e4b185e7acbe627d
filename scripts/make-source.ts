import { createHash } from 'node:crypto';
import {
  closeSync,
  constants,
  copyFileSync,
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
import { dirname, isAbsolute, join, relative, resolve, sep } from 'node:path';
import { parseArgs } from 'node:util';
import { type DepotIndex, DepotIndexSchema, type Game } from '#core/builds';
import type { Compressor, Effort } from '#core/bundles';
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
  makeSource,
  type NewDepot,
  withBundles,
} from '#core/sources';
import { type LyingDepot, makeBundle } from './make-bundles';

/* npm run make-source: see HELP. */

const HELP = `npm run make-source -- --game GAME.json --label LABEL --date 2026-01-31 --on BRANCH
                       --from DEPOT=FOLDER [--from DEPOT=FOLDER ...] [--kind DEPOT=KIND]
                       [--with-files [--strongest | --plain] [--between LABEL ...]] --to FOLDER

Makes a source of builds that any static web server can hold: an index and a manifest for each depot. Run again with
another build and the same --to, it adds the build to what is there.

  --game GAME.json     the game, as Regressum exports it
  --label LABEL        what the build is called
  --date DATE          when it came out, such as 2026-01-31
  --on BRANCH          the branch that it came out on
  --from DEPOT=FOLDER  a depot and the folder with its files, in laying order: what comes later is laid over the others
  --kind DEPOT=KIND    core (where it is left out), program, world, optional, add-on, or language:CODE
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

/** Size and digests of a file, read once, a piece at a time. */
function describe(folder: string, path: string): ManifestFile {
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
      if (filled > 0 || size === 0) pieces.push(createHash('sha256').update(piece).digest('hex'));
      size += filled;
      // A file that is one piece has that piece's digest.
      if (size < PIECE_SIZE) return { path, size, sha256: pieces[0]!, pieces };
      whole.update(piece);
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

/** The files of a depot, read from its folder; nothing that is the player's own. */
function depotFiles(game: Game, depot: string, folder: string, say: (text: string) => void): ManifestFile[] {
  const all = filesBelow(folder).sort();
  const some = all.filter((path) => leftOut(game, path) === undefined);
  const names = new PathSet();
  for (const path of some) names.add(path);
  let bytes = 0;
  let told = 0;
  const files = some.map((path, i) => {
    const file = describe(folder, path);
    bytes += file.size;
    if (Date.now() - told > 500 || i === some.length - 1) {
      told = Date.now();
      say(`${depot}: ${i + 1} of ${some.length} files, ${(bytes / 1e6).toFixed(1)} MB`);
    }
    return file;
  });
  if (all.length > some.length)
    say(`${depot}: ${all.length - some.length} files of your own, or of mods, are left out`);
  return files;
}

/** A level finds what has shifted, in data that cannot be compressed, as far as its tables reach: this one about three megabytes. */
const USUAL: Effort = { level: 7, wholeLevel: 4, lookBack: 1 << 20 };
const STRONGEST: Effort = { level: 19, wholeLevel: 19, lookBack: 4 << 20 };

export type Threads = Compressor & { readonly end: () => Promise<unknown> };

interface Bundling {
  readonly real: string;
  readonly threads: () => Threads;
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
  const pool = threads();
  const bundles: MadeBundle[] = [];
  const make = async (depot: LyingDepot, base?: LyingDepot): Promise<void> => {
    const path = bundlePath(depot.manifest.build, depot.manifest.depot, base?.manifest.build);
    made.push(join(real, path), join(real, bundleIndexPath(path)));
    const bundle = await makeBundle(real, depot, base, pool, effort);
    if (!bundle) return;
    bundles.push(bundle);
    const what = base ? `from ${base.manifest.build} to ${bundle.build}` : bundle.build;
    say(`${bundle.depot}: ${what} in ${(bundle.bytes / 1e6).toFixed(1)} MB`);
  };
  try {
    for (const { id } of index.depots) {
      const own = lying(label, id);
      if (!own) continue;
      await make(own);
      for (const other of others) {
        const theirs = lying(other, id);
        if (!theirs) continue;
        await make(own, theirs);
        await make(theirs, own);
      }
    }
  } finally {
    await pool.end();
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
      between: { type: 'string', multiple: true },
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
  const depots = sources.map(([id, folder]): NewDepot => {
    const files = depotFiles(game, id, folder, say);
    if (files.length === 0) refuse(`${folder} has no file for ${id}.`);
    return { id, ...kindOf(kinds.get(id), id), files };
  });
  const { index, manifests } = await makeSource(before, game, { label, date, branch }, depots, {
    sha256,
    has: values['with-files'] ? 'files' : 'manifests',
  });
  const made: string[] = [];
  try {
    if (values['with-files']) {
      for (const [i, { id, files }] of depots.entries()) {
        const base = join(real, filesPath(label, id));
        made.push(base);
        for (const { path } of files) {
          mkdirSync(dirname(join(base, path)), { recursive: true });
          copyFileSync(join(sources[i]![1], path), join(base, path), constants.COPYFILE_FICLONE);
        }
        say(`${id}: files copied`);
      }
    }
    for (const [path, text] of manifests) {
      made.push(join(real, path));
      put(join(real, path), text);
    }
    const isBundled = values['with-files'] && !values.plain;
    const effort = values.strongest ? STRONGEST : USUAL;
    const others = [...new Set([...buildsToBridge(index, label), ...between])];
    const bundles = isBundled ? await bundlesOf(index, label, others, { real, threads, effort, say, made }) : [];
    // Last: until then nobody knows of the new build.
    put(indexPath, `${JSON.stringify(withBundles(index, bundles), null, 2)}\n`);
  } catch (error) {
    for (const path of made) rmSync(path, { recursive: true, force: true });
    throw error;
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
