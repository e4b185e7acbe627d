import { inLanes } from '#core/calls';
import { type GameRules, type OwnKind, ownRule } from '#core/builds';
import { treeFolder } from '#core/changes';
import { keySize } from '#core/digest';
import { failureToWire, isFailure, type WireFailure } from '#core/failure';
import type { FolderEntry, FolderReader } from '#core/folders';
import { IN_GAME, type Keepsake, type OwnFile } from '#core/keepsakes';
import type { Reading } from '#core/survey';
import { besidePath } from '~/folders';
import { type Elsewhere, getSurvey, type Install } from '~/store';
import { canChange } from './can-change';
import { keeperOf } from './store-of';
import { type Source, sourceAt, sourceOf } from './source';

/* The player's own files, wherever they lie: in the game's folder by the game's rules, and outside it where a person pointed. */

/** A place with files of the player's. */
export interface OwnPlace {
  readonly name: string;
  /** As a person knows it. */
  readonly title: string;
  /** A cloud service synchronises it. */
  readonly synced: boolean;
  /** Where it lies on the disk that keeps and puts back. */
  readonly onDisk: (path: string) => string;
  readonly open: () => Promise<Source>;
  readonly list: (source: Source) => Promise<readonly FolderEntry[]>;
  readonly kindOf: (path: string) => OwnKind | undefined;
}

/** A file of the player's, before its bytes are known. */
export interface OwnListed {
  readonly path: string;
  readonly kind: OwnKind;
  readonly size: number;
  readonly modified: number;
  /** No rule says that it is the player's: it comes along. */
  readonly along?: true | undefined;
}

/** The part of a rule before its first wildcard: nothing outside it can fit. */
function fixedPart(rule: string): string {
  const parts = rule.split('/');
  const wild = parts.findIndex((part) => /[*?]/.test(part));
  return (wild < 0 ? parts : parts.slice(0, wild)).join('/');
}

const below = ({ root }: Pick<Source, 'root'>, path: string): string =>
  [root, path].filter((part) => part !== '').join('/');

/** What lies at a path, be it a file or a folder with files. */
async function filesAt(reader: FolderReader, path: string): Promise<readonly FolderEntry[]> {
  const files = await reader.list(path).catch((error: unknown) => {
    if (isFailure(error, 'folder/not-a-file') || isFailure(error, 'folder/not-found')) return [];
    throw error;
  });
  if (files.length > 0 || path === '') return files;
  const file = await reader.stat(path);
  return file ? [file] : [];
}

/** Lists only where the rules can find something: a game's folder may have a hundred thousand other files. */
async function listByRules(source: Source, { own }: GameRules): Promise<FolderEntry[]> {
  const starts = new Set(own.map(({ folder }) => fixedPart(folder)));
  const found = new Map<string, FolderEntry>();
  const cut = source.root === '' ? 0 : source.root.length + 1;
  for (const start of starts) {
    for (const entry of await filesAt(source.reader, below(source, start))) {
      const path = entry.path.slice(cut);
      found.set(path, { ...entry, path });
    }
  }
  return [...found.values()];
}

/**
 * Whether keepsakes lie in the folder's own store. Else they lie on the browser's disk, beside which the folder is looked at.
 */
export const isKeptInFolder = async ({ place }: Install): Promise<boolean> => canChange(place);

const outside = ({ name, title, kind, at, synced }: Elsewhere): OwnPlace => ({
  ...{ name, title, synced: synced === true, onDisk: (path) => besidePath(name, path), kindOf: () => kind },
  open: () => sourceAt(at),
  list: ({ reader }) => reader.list(),
});

/** All places of an install that have files of the player's. */
export async function ownPlaces(install: Install, rules: GameRules): Promise<OwnPlace[]> {
  const inFolder = await isKeptInFolder(install);
  const game: OwnPlace = {
    ...{ name: IN_GAME, title: install.folder, synced: false },
    onDisk: (path) => (inFolder ? `${treeFolder(install.tree)}/${path}` : besidePath(IN_GAME, path)),
    open: () => sourceOf(install, install.tree),
    list: (source) => listByRules(source, rules),
    kindOf: (path) => ownRule(rules, path)?.kind,
  };
  return [game, ...(install.elsewhere ?? []).map(outside)];
}

/** Those of some files that lie at their place now. */
async function alsoThere({ reader, root }: Source, also: readonly OwnFile[]): Promise<OwnListed[]> {
  const found: OwnListed[] = [];
  await inLanes(also, LANES, { gate: () => undefined }, async ({ path, kind, along }) => {
    const entry = await reader.stat(below({ root }, path));
    if (entry) found.push({ path, kind, along, size: entry.size, modified: entry.modified });
  });
  return found;
}

/** Files that are looked at at once. */
const LANES = 8;

/**
 * The files of the player's at a place; or why it cannot be looked at now.
 * @param also files that are the player's though no rule says so, as far as they lie there
 */
export async function listOwn(
  place: OwnPlace,
  also: readonly OwnFile[] = [],
): Promise<{ readonly source: Source; readonly files: readonly OwnListed[] } | { readonly failure: WireFailure }> {
  try {
    const source = await place.open();
    const files = (await place.list(source)).flatMap(({ path, size, modified }): OwnListed[] => {
      const kind = place.kindOf(path);
      return kind === undefined ? [] : [{ path, kind, size, modified }];
    });
    const listed = new Set(files.map(({ path }) => path));
    const others = also.filter((file) => file.place === place.name && !listed.has(file.path));
    return { source, files: others.length === 0 ? files : [...files, ...(await alsoThere(source, others))] };
  } catch (error) {
    if (!isFailure(error) || isFailure(error, 'job/cancelled')) throw error;
    return { failure: failureToWire(error) };
  }
}

/** The newest keepsake of an install; undefined where there is none. */
export async function newestKeepsake(install: Install): Promise<Keepsake | undefined> {
  const keeper = await keeperOf(install);
  const [newest] = (await keeper.keepsakes()).keepsakes;
  return newest && keeper.keepsake(newest.id);
}

function readingOf({ at, files }: Keepsake, place: string): Reading {
  const own = files.filter((file) => file.place === place);
  return {
    at,
    paths: own.map(({ path }) => path),
    sizes: Float64Array.from(own, ({ key }) => keySize(key)),
    modified: Float64Array.from(own, ({ modified }) => modified ?? NaN),
    keys: own.map(({ key }) => key),
  };
}

/** What was read of the files of the player's before, place by place: digests count by size and time. */
export async function ownReadBefore(install: Install): Promise<(place: string) => Reading[]> {
  const [latest, survey] = await Promise.all([newestKeepsake(install), getSurvey(install)]);
  return (place) => [...(survey && place === IN_GAME ? [survey] : []), ...(latest ? [readingOf(latest, place)] : [])];
}
