import { fileName, fitsGlob, isBelow } from '#core/paths';
import type { GameRules } from '#core/builds';

/* How mods of a game lie in its folder: as the game's rules say, or else as those lie that are known. */

/** What a game and its known mods say of where files of mods belong. */
export interface Ground {
  readonly rules: GameRules;
  /** Files of the game itself, at whatever build. */
  readonly vanilla: Iterable<string>;
  /** Files of mods by where they lie, or are to lie, in the game's folder, with the id of the mod where it is known. */
  readonly mods: Iterable<{ readonly path: string; readonly mod?: string | undefined }>;
}

/** Files that tell a mod's folder, or where they belong themselves. */
export interface Mark {
  /** A pattern of a file's name. */
  readonly files: string;
  /** The folder that they belong in, or in a folder of the mod's own in it. */
  readonly folder: string;
  readonly ownFolder: boolean;
  /** What the mod's own folder is called after: such a file, or the mod's id; any name, where it is undefined. */
  readonly called?: 'file' | 'id' | undefined;
}

/** Fewer mods tell nothing of all. */
const FEWEST = 3;
/** The share of mods that have something which all are taken to have. */
const MOST = 0.8;

export const stem = (path: string): string => fileName(path).replace(/\.[^.]*$/, '');
const ending = (path: string): string => /\.[^./]+$/.exec(path)?.[0] ?? '';

/** Patterns that a name has which mods may have in common: itself, and its ending. */
const patternsOf = (path: string): string[] => [
  fileName(path),
  ...(ending(path) ? [`*${ending(path).toLowerCase()}`] : []),
];

interface ModFolder {
  readonly name: string;
  readonly mods: Set<string>;
  /** Names of the files that lie in it, and not deeper, each once: several releases may have it. */
  readonly files: Set<string>;
}

/** The folders of mods in a folder; what lies in none of them is under the name `''`. */
function modFolders(mods: Ground['mods'], modsFolder: string): Map<string, ModFolder> {
  const folders = new Map<string, ModFolder>();
  for (const { path, mod } of mods) {
    if (!isBelow(path, modsFolder)) continue;
    const [first = '', ...deeper] = path.slice(modsFolder.length + 1).split('/');
    const name = deeper.length === 0 ? '' : first;
    const folder = folders.get(name) ?? { name, mods: new Set(), files: new Set() };
    folders.set(name, folder);
    if (mod !== undefined) folder.mods.add(mod);
    if (deeper.length <= 1) folder.files.add(deeper[0] ?? first);
  }
  return folders;
}

/** The pattern of which nearly every one of some lists of names has just one. */
function inCommon(lists: readonly Iterable<string>[]): string | undefined {
  const having = new Map<string, number>();
  for (const names of lists) {
    const times = new Map<string, number>();
    for (const pattern of [...names].flatMap(patternsOf)) times.set(pattern, (times.get(pattern) ?? 0) + 1);
    for (const [pattern, count] of times) if (count === 1) having.set(pattern, (having.get(pattern) ?? 0) + 1);
  }
  const [best] = [...having].filter(([, count]) => count >= MOST * lists.length).toSorted((a, b) => b[1] - a[1]);
  return best?.[0];
}

/** What tells mods' folders, learned from the mods that are known; none where too few are, or they lie in no common way. */
function learnedMarks(mods: Ground['mods'], modsFolder: string): Mark[] {
  const folders = modFolders(mods, modsFolder);
  const flat = [...(folders.get('')?.files ?? [])];
  folders.delete('');
  // Of a mod that nobody knows, a folder without a file of its own may be one too many.
  const all = [...folders.values()].filter(({ mods: ids, files }) => ids.size > 0 || files.size > 0);
  const marks: Mark[] = [];
  if (all.length >= FEWEST) {
    const files = inCommon(all.map((folder) => folder.files));
    const most = (isSo: (folder: ModFolder) => boolean): boolean => all.filter(isSo).length >= MOST * all.length;
    if (files !== undefined) {
      const isSame = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();
      const called = most(({ name, files: own }) =>
        [...own].some((file) => fitsName(file, files) && isSame(stem(file), name)),
      )
        ? 'file'
        : most(({ name, mods: ids }) => ids.size === 1 && ids.has(name))
          ? 'id'
          : undefined;
      marks.push({ files, folder: modsFolder, ownFolder: true, called });
    }
  }
  if (flat.length >= FEWEST && flat.length > folders.size) {
    const files = inCommon(flat.map((name) => [name]));
    if (files?.startsWith('*')) marks.push({ files, folder: modsFolder, ownFolder: false });
  }
  return marks;
}

/** Whether a file's name fits a pattern, whatever its case. */
export const fitsName = (path: string, pattern: string): boolean =>
  fitsGlob(fileName(path).toLowerCase(), pattern.toLowerCase());

/** What tells where files of mods belong in a game: its rules, and what its known mods have in common. */
export function marksOf({ rules, mods }: Ground): Mark[] {
  const { layout = [], modsFolder } = rules;
  const told = layout.map(({ files, folder, ownFolder = false }): Mark => ({ files, folder, ownFolder }));
  if (told.length > 0 || modsFolder === undefined) return told;
  return learnedMarks(mods, modsFolder);
}
