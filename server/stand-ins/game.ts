import { asMod, type BuildLabel, type ModId } from '#core/builds';
import type { LaidFile } from '#core/manifest';
import {
  type Catalogue,
  inRange,
  loadOrder,
  type Mod,
  modById,
  needsOf,
  rangeWords,
  type Release,
  releaseAt,
  releaseFileKey,
  type Requirement,
} from '#core/mods';
import type { GameAnswer, StartRequest } from '#core/outside';
import { BUILDS, CRASHES, DEPOTS, GAME, MODS } from '#demo';
import type { Library } from './library';

type Log = GameAnswer['log'];
type ModOutcome = GameAnswer['mods'][number];

/** The made-up game as it starts: it knows only what lies in its folder, and answers from the bytes. */
export function startGame(
  { files, loadOrder: listed }: StartRequest,
  library: Library,
  { afterPatch, count }: { readonly afterPatch: boolean; readonly count: number },
): GameAnswer {
  const onDisk = new Map(files.map(({ path, key }) => [path, key]));
  const log: Log = [];
  const build = programBuild(onDisk, library);
  if (!build) {
    log.push({ level: 'error', text: `${GAME.rules.program}: no program of this name can be run` });
    return { outcome: 'crash', mods: [], log };
  }
  log.push({ level: 'note', text: `Ferrywake ${build}` });
  checkData(build, onDisk, library, log);
  if (log.some(({ level }) => level === 'error')) return { outcome: 'crash', version: build, mods: [], log };
  const mods = loadMods(build, onDisk, listed, library, afterPatch, log);
  if (crashes(onDisk, count)) {
    log.push({ level: 'error', text: 'renderer stopped: access violation at 0x7f3a11c0' });
    return { outcome: 'crash', version: build, mods: [], log };
  }
  return { outcome: 'title', version: build, mods, log };
}

/** Whether a mod has the game crash as it comes up; nothing in the log says which. */
function crashes(onDisk: ReadonlyMap<string, string>, count: number): boolean {
  const isHere = (mod: string): boolean => onDisk.has(`mods/${mod}/mod.json`);
  return CRASHES.some(
    ({ mod, beside, everyOther }) =>
      isHere(mod) && (beside === undefined || isHere(beside)) && (everyOther === undefined || count % 2 === 0),
  );
}

function programBuild(onDisk: ReadonlyMap<string, string>, library: Library): BuildLabel | undefined {
  const { program } = GAME.rules;
  return BUILDS.map(({ label }) => label).findLast((build) =>
    library
      .laid(build, seemsOwned(onDisk, library, build))
      .some(({ path, key }) => path === program && onDisk.get(path) === key),
  );
}

/** What the folder seems to own: optional depots, add-ons and the language of which most files lie there. */
function seemsOwned(
  onDisk: ReadonlyMap<string, string>,
  library: Library,
  build: BuildLabel,
): Parameters<Library['laid']>[1] {
  const here = (id: (typeof DEPOTS)[number]['id']): number => {
    const { paths } = library.manifest(build, id).manifest;
    return paths.filter((path) => onDisk.has(path)).length / Math.max(1, paths.length);
  };
  const same = (id: (typeof DEPOTS)[number]['id']): number =>
    library
      .laid(build, { language: DEPOTS.find((d) => d.id === id)!.language ?? '', addOns: [], optional: [] })
      .filter(({ depot, path, key }) => depot === id && onDisk.get(path) === key).length;
  const languages = DEPOTS.filter(({ kind }) => kind === 'language').toSorted((a, b) => same(b.id) - same(a.id));
  return {
    language: languages[0]!.language!,
    addOns: DEPOTS.filter(({ kind, id }) => kind === 'add-on' && here(id) > 0.5).map(({ id }) => id),
    optional: DEPOTS.filter(({ kind, id }) => kind === 'optional' && here(id) > 0.9).map(({ id }) => id),
  };
}

const IS_BINARY = /\.(prog|lib|fwa|map)$/;

function checkData(build: BuildLabel, onDisk: ReadonlyMap<string, string>, library: Library, log: Log): void {
  const owned = seemsOwned(onDisk, library, build);
  const laid = library.laid(build, owned);
  const expected = new Set(laid.map(({ path }) => path));
  for (const { path, key } of laid) {
    const found = onDisk.get(path);
    if (found === key) continue;
    if (found === undefined) log.push({ level: 'error', text: `${path}: cannot be opened` });
    else log.push({ level: IS_BINARY.test(path) ? 'error' : 'warning', text: `${path}: not the data of ${build}` });
  }
  const later = BUILDS.slice(BUILDS.findIndex(({ label }) => label === build) + 1);
  for (const { label } of later) {
    for (const { path, key } of library.laid(label, owned)) {
      if (!expected.has(path) && IS_BINARY.test(path) && onDisk.get(path) === key) {
        log.push({ level: 'error', text: `${path}: a file of ${label} has no place under the program of ${build}` });
        expected.add(path);
      }
    }
  }
}

/**
 * Whether a release runs: its author says so, or it is known what it touches and nothing of that differs from a build for
 * which he does.
 */
function runsOn(release: Release, build: BuildLabel, trees: (build: BuildLabel) => readonly LaidFile[]): boolean {
  if (release.builds.includes(build)) return true;
  const { touches } = release;
  if (!touches) return false;
  const touched = (label: BuildLabel): string =>
    trees(label)
      .filter(({ path }) => touches.includes(path))
      .map(({ path, key }) => `${path} ${key}`)
      .join();
  const now = touched(build);
  return release.builds.some((label) => touched(label) === now);
}

function needsLoader(mod: Mod, release: Release, catalogue: Catalogue, asked: readonly ModId[] = []): boolean {
  if (mod.kind === 'loader') return true;
  return needsOf(release)
    .flat()
    .some(({ mod: id }) => {
      const required = asked.includes(id) ? undefined : modById(catalogue, id);
      return required?.releases.some((r) => needsLoader(required, r, catalogue, [...asked, mod.id]));
    });
}

/** Names of the folders that mods lie in. */
function modFolders(paths: Iterable<string>): ReadonlySet<string> {
  const folders = new Set<string>();
  for (const path of paths) {
    const [first, mod, ...rest] = path.split('/', 3);
    if (first === 'mods' && rest.length > 0) folders.add(mod!);
  }
  return folders;
}

function loadMods(
  build: BuildLabel,
  onDisk: ReadonlyMap<string, string>,
  listed: string,
  library: Library,
  afterPatch: boolean,
  log: Log,
): ModOutcome[] {
  const catalogue = library.catalogue(afterPatch);
  const inFolder = new Map<ModId, string>();
  const folders = modFolders(onDisk.keys());
  for (const mod of catalogue.mods) {
    const mark = onDisk.get(`mods/${mod.id}/mod.json`);
    const release = mod.releases.find(({ files }) => files[0] && releaseFileKey(files[0]) === mark);
    if (release) inFolder.set(mod.id, release.version);
    else if (folders.has(mod.id)) {
      log.push({ level: 'warning', text: `mods/${mod.id}: no mod.json in this folder, passed over` });
    }
  }
  const list = new Set(listed.split('\n').filter((line) => line !== ''));
  for (const id of list) {
    if (!modById(catalogue, asMod(id)) && folders.has(id)) {
      log.push({ level: 'note', text: `mods/${id}: in no catalogue, taken as it is` });
    }
  }
  const owned = seemsOwned(onDisk, library, build);
  const trees = (label: BuildLabel): readonly LaidFile[] => library.laid(label, owned);
  const loaded = new Map<ModId, string>();
  const outcomes: ModOutcome[] = [];
  for (const id of loadOrder(catalogue, inFolder)) {
    const mod = modById(catalogue, id)!;
    const release = releaseAt(mod, inFolder.get(id)!)!;
    const reason = whyNot(mod, release, build, { catalogue, loaded, onDisk, list, trees });
    if (!reason) loaded.set(id, release.version);
    else log.push({ level: 'warning', text: `${mod.name} ${release.version}: ${reason.why}` });
    outcomes.push({ mod: id, release: release.version, ran: !reason, ...reason });
  }
  for (const outcome of outcomes) {
    const rule = MODS.find(({ id }) => id === outcome.mod)?.breaksWith;
    if (outcome.ran && rule?.build === build && loaded.has(rule.mod)) {
      Object.assign(outcome, { ran: false, why: 'lamp sheet could not be bound' });
      log.push({ level: 'warning', text: `${outcome.mod} ${outcome.release}: lamp sheet could not be bound` });
    }
  }
  return outcomes;
}

interface Loading {
  readonly catalogue: Catalogue;
  readonly loaded: ReadonlyMap<ModId, string>;
  readonly onDisk: ReadonlyMap<string, string>;
  readonly list: ReadonlySet<string>;
  readonly trees: (build: BuildLabel) => readonly LaidFile[];
}

type WhyNot = Required<Pick<ModOutcome, 'why' | 'cause'>>;

function whyNot(mod: Mod, release: Release, build: BuildLabel, loading: Loading): WhyNot | undefined {
  const { catalogue, loaded, onDisk, list, trees } = loading;
  const missing = release.files.find((file) => onDisk.get(file.path) !== releaseFileKey(file));
  if (missing) return { cause: 'files', why: `${missing.path} is missing or damaged` };
  if (!runsOn(release, build, trees)) {
    const what = mod.kind === 'loader' ? 'know the program' : 'work with the data';
    return { cause: 'build', why: `does not ${what} of ${build}` };
  }
  if (needsLoader(mod, release, catalogue) && !list.has(mod.id)) {
    return { cause: 'not-listed', why: 'is not in the list of mods to load' };
  }
  const isMet = (need: Requirement): boolean => {
    const required = modById(catalogue, need.mod);
    const version = loaded.get(need.mod);
    return required !== undefined && version !== undefined && inRange(required, version, need);
  };
  for (const alternatives of needsOf(release)) {
    if (alternatives.some(isMet)) continue;
    const words = alternatives.map((need) => `${modById(catalogue, need.mod)?.name ?? need.mod} ${rangeWords(need)}`);
    return { cause: 'requirement', why: `needs ${words.join(' or ')}` };
  }
  for (const { mod: id } of release.conflicts) {
    if (loaded.has(id)) return { cause: 'conflict', why: `cannot run beside ${modById(catalogue, id)?.name ?? id}` };
  }
  return undefined;
}
