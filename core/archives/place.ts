import { ownKind } from '#core/builds';
import { fileName, folderOf, isBelow, isGlob, topFolder } from '#core/paths';
import { fitsName, type Ground, type Mark, marksOf, stem } from './mod-form';
import { namedRelease } from './named';

/*
 * Where files of an archive belong in a game's folder, told by the game's own files, by its rules and by mods that are known. What is
 * not sure is said to be so, and never placed by guess.
 */

/** How a part's place is known. */
export type Why =
  /** A file of the game itself has the same path. */
  | 'game-file'
  /** It has the folder of mods in it, or another one that the game's rules name. */
  | 'named-folder'
  /** A file in it is called as one of every mod is, or as the game's rules say. */
  | 'mark'
  /** Only its folder is called as one of the game's is. */
  | 'same-folder'
  /** Nothing tells. */
  | 'nothing';

/** Files of an archive that go to one place together. */
export interface ArchivePart {
  /** The folder of the archive that goes there; empty for all of it. */
  readonly from: string;
  /** The folder of the game that it goes to, empty for the game's own; undefined where nothing tells it. */
  readonly to: string | undefined;
  /** Paths in the archive. */
  readonly paths: readonly string[];
  readonly why: Why;
  /** Whether it is placed without asking. */
  readonly isSure: boolean;
}

export interface Placement {
  readonly parts: readonly ArchivePart[];
  /** Notes and pictures about the mods, which go nowhere. */
  readonly aside: readonly string[];
}

/** What an archive's own texts tell of the mod in a folder. */
export type IdIn = (folder: string) => string | undefined;

const NOTE = /\.(?:txt|md|markdown|rtf|pdf|docx?|odt|html?|url|nfo|diz)$/i;
const PICTURE = /\.(?:png|jpe?g|gif|webp|bmp|avif)$/i;
const NOTE_NAME = /^(?:read[ _-]?me|licen[cs]e|change[ _-]?(?:log|s)|credits|install(?:ation)?|copying)\b/i;

/** Whether a file is about a mod more likely than of it. */
export const isNote = (path: string): boolean =>
  NOTE.test(path) || PICTURE.test(path) || NOTE_NAME.test(fileName(path));

/** The rest of a path below a folder; the path itself below `''`. */
const below = (path: string, folder: string): string => (folder === '' ? path : path.slice(folder.length + 1));
const isIn = (path: string, folder: string): boolean => folder === '' || isBelow(path, folder);
const joined = (...parts: readonly string[]): string => parts.filter((part) => part !== '').join('/');

/** Where a path of a part goes; undefined where the part has no place. */
export const placeOf = ({ from, to }: Pick<ArchivePart, 'from' | 'to'>, path: string): string | undefined =>
  to === undefined ? undefined : joined(to, below(path, from));

/** The folders above a path, the outermost first: `''`, `a`, `a/b` of `a/b/c`. */
function foldersAbove(path: string): string[] {
  const parts = path.split('/').slice(0, -1);
  return ['', ...parts.map((_, i) => parts.slice(0, i + 1).join('/'))];
}

/** The game's own files, as they are asked for. */
class GameTree {
  readonly #paths = new Map<string, string>();
  readonly #folders = new Map<string, Set<string>>();
  readonly #tops = new Set<string>();
  readonly #spelled = new Map<string, string>();
  readonly #named: readonly string[];

  constructor({ vanilla, rules: { modsFolder, layout = [], loader, program, own } }: Ground) {
    const spell = (folder: string): void => {
      for (let path = folder; path !== ''; path = folderOf(path)) this.#spelled.set(path.toLowerCase(), path);
    };
    for (const path of vanilla) {
      this.#paths.set(path.toLowerCase(), path);
      const folder = folderOf(path);
      const kinds = this.#folders.get(folder.toLowerCase());
      if (kinds) kinds.add(ending(path));
      else {
        this.#folders.set(folder.toLowerCase(), new Set([ending(path)]));
        spell(folder);
      }
      if (folder !== '') this.#tops.add(topFolder(path).toLowerCase());
    }
    const fixed = own.map(({ folder }) =>
      folder
        .split('/')
        .filter((part) => !isGlob(part))
        .join('/'),
    );
    const named = [modsFolder ?? '', ...layout.map(({ folder }) => folder), ...fixed];
    this.#named = [...new Set(named)].filter((path) => path !== '');
    const files = [loader, program].flatMap((path) => (path === undefined ? [] : [folderOf(path)]));
    for (const path of [...this.#named, ...files]) {
      spell(path);
      if (path !== '') this.#tops.add(path.split('/')[0]!.toLowerCase());
    }
  }

  /** A path with its folders, and the file where it is the game's own, spelled as the game has them. */
  spelled(path: string): string {
    const own = this.file(path);
    if (own !== undefined) return own;
    for (let folder = folderOf(path); folder !== ''; folder = folderOf(folder)) {
      const known = this.#spelled.get(folder.toLowerCase());
      if (known !== undefined) return `${known}/${below(path, folder)}`;
    }
    return path;
  }

  /** The game's own file at a path, however that is spelled. */
  file(path: string): string | undefined {
    return this.#paths.get(path.toLowerCase());
  }

  /** Whether the folder is one of the game's, which has files with this one's ending. */
  hasLike(path: string): boolean {
    return folderOf(path) !== '' && (this.#folders.get(folderOf(path).toLowerCase())?.has(ending(path)) ?? false);
  }

  /** Whether a path begins with a folder that the rules name. */
  isNamed(path: string): boolean {
    return this.#named.some((folder) => isBelow(path.toLowerCase(), folder.toLowerCase()));
  }

  /** Whether a path begins with a folder that there is at the top of the game. */
  hasTop(path: string): boolean {
    return this.#tops.has(topFolder(path).toLowerCase());
  }
}

const gameTrees = new WeakMap<Ground, GameTree>();

/** A game is asked of many archives, or folders, in turn. */
function gameTreeOf(ground: Ground): GameTree {
  const known = gameTrees.get(ground) ?? new GameTree(ground);
  gameTrees.set(ground, known);
  return known;
}

const ending = (path: string): string => /\.[^./]+$/.exec(path)?.[0].toLowerCase() ?? '';

interface Root {
  readonly folder: string;
  readonly why: Extract<Why, 'game-file' | 'named-folder' | 'same-folder'>;
}

/** The folders of an archive that are as the game's own is, by what tells that. */
function rootsOf(paths: readonly string[], game: GameTree): Root[] {
  const roots = new Map<string, Root['why']>();
  const ORDER: readonly Root['why'][] = ['game-file', 'named-folder', 'same-folder'];
  const note = (folder: string, why: Root['why']): void => {
    const known = roots.get(folder);
    if (known === undefined || ORDER.indexOf(why) < ORDER.indexOf(known)) roots.set(folder, why);
  };
  for (const path of paths) {
    for (const folder of foldersAbove(path)) {
      const rest = below(path, folder);
      // A name alone says little: many folders have a file of that name.
      if (game.file(rest) !== undefined && rest.includes('/')) note(folder, 'game-file');
      else if (isNote(path) && !game.hasLike(rest)) continue;
      else if (game.isNamed(rest)) note(folder, 'named-folder');
      else if (game.hasLike(rest)) note(folder, 'same-folder');
    }
  }
  return [...roots].map(([folder, why]) => ({ folder, why }));
}

interface MarkedFolder {
  readonly folder: string;
  readonly mark: Mark;
  readonly file: string;
}

/** Folders of mods by the files that tell them; of one within another the outer one. */
function markedFolders(paths: readonly string[], marks: readonly Mark[]): MarkedFolder[] {
  const found = paths.flatMap((file): MarkedFolder[] => {
    const mark = marks.find(({ files, ownFolder }) => ownFolder && fitsName(file, files));
    return mark ? [{ folder: folderOf(file), mark, file }] : [];
  });
  return found.filter(({ folder }) => !found.some((other) => other.folder !== folder && isIn(folder, other.folder)));
}

/** Words by which folders of an archive are told apart of which one is to be chosen. */
const CHOICE =
  /(?:^|[^a-z])(?:options?|optional|variants?|versions?|choose|either|alt(?:ernat(?:e|ive))?|main|core|base|low|med(?:ium)?|high|ultra|lite|light|dark|full|hd|sd|\d+k?)(?![a-z])/i;

/** Whether a mod's folder is hardly called as it is in the archive. */
const isMakeshift = (name: string): boolean => CHOICE.test(name) || namedRelease(name).version !== '';

/** What a mod's own folder is called; undefined where that is to be asked. */
function ownName({ folder, mark, file }: MarkedFolder, idIn: IdIn): string | undefined {
  if (mark.called === 'file') return stem(file);
  if (mark.called === 'id') return idIn(folder);
  const name = fileName(folder);
  return name === '' || isMakeshift(name) ? undefined : name;
}

/** Files whose names alone say which folder they go to. */
function flatParts(paths: readonly string[], marks: readonly Mark[]): ArchivePart[] {
  const parts = new Map<string, { from: string; to: string; paths: string[] }>();
  for (const path of paths) {
    const mark = marks.find(({ files, ownFolder }) => !ownFolder && fitsName(path, files));
    if (!mark) continue;
    const [from, to] = [folderOf(path), mark.folder];
    const part = parts.get(`${from}\u0000${to}`) ?? { from, to, paths: [] };
    parts.set(`${from}\u0000${to}`, part);
    part.paths.push(path);
  }
  // Files of several folders may be there to choose from.
  const isSure = parts.size === 1;
  return [...parts.values()].map((part) => ({ ...part, why: 'mark', isSure: isSure && !CHOICE.test(part.from) }));
}

/** The deepest folder that has all of some files. */
function commonFolder(paths: readonly string[]): string {
  let [common = ''] = paths.map(folderOf);
  for (const path of paths) while (!isIn(path, common)) common = folderOf(common);
  return common;
}

/** Files by the folders in which they part ways, so that each can be placed by itself; all together where they lie in one. */
function byBranch(paths: readonly string[]): Map<string, string[]> {
  const common = commonFolder(paths);
  const branches = new Map<string, string[]>();
  for (const path of paths) {
    const next = topFolder(below(path, common));
    const from = joined(common, next);
    branches.set(from, [...(branches.get(from) ?? []), path]);
  }
  return branches;
}

/** Two parts that are sure, and put different files at one place: which of them is meant is for the person to say. */
function asked(parts: readonly ArchivePart[]): ArchivePart[] {
  const at = new Map<string, ArchivePart[]>();
  for (const part of parts) {
    for (const path of part.paths) {
      const place = placeOf(part, path)?.toLowerCase();
      if (place === undefined) continue;
      at.set(place, [...(at.get(place) ?? []), part]);
    }
  }
  const doubted = new Set([...at.values()].flatMap((some) => (some.length > 1 ? some : [])));
  return parts.map((part) => (doubted.has(part) ? { ...part, isSure: false } : part));
}

/** Whether two folders are the same but for their names, as far as most of the smaller one's files go. */
function areAlike(a: readonly string[], b: readonly string[]): boolean {
  const [small, large] = a.length <= b.length ? [a, new Set(b)] : [b, new Set(a)];
  return small.filter((path) => large.has(path)).length * 2 > small.length;
}

/** Whether a folder lies in one of its own name: unpacked, or packed, once too often. */
const isDoubled = (place: string): boolean =>
  place
    .toLowerCase()
    .split('/')
    .some((part, i, all) => part === all[i + 1] && i + 2 < all.length);

/** The folders of mods that a part is made of each, and whether each is sure. */
function markedParts(
  marked: readonly MarkedFolder[],
  paths: readonly string[],
  roots: readonly Root[],
  idIn: IdIn,
): ArchivePart[] {
  const folders = new Map<string, MarkedFolder[]>();
  for (const one of marked) folders.set(one.folder, [...(folders.get(one.folder) ?? []), one]);
  const inside = new Map([...folders.keys()].map((folder) => [folder, paths.filter((path) => isIn(path, folder))]));
  return [...folders].map(([folder, marks]): ArchivePart => {
    const [one] = marks as [MarkedFolder];
    const own = inside.get(folder)!;
    const name = ownName(one, idIn);
    const to = name === undefined ? undefined : joined(one.mark.folder, name);
    const rest = own.map((path) => below(path, folder));
    const hasTwin = [...inside].some(
      ([other, some]) =>
        other !== folder &&
        areAlike(
          rest,
          some.map((path) => below(path, other)),
        ) &&
        rest.length > 1,
    );
    // What has a tree like the game's in it, or beside it elsewhere, may be meant for the game's folder.
    const isAlone =
      marks.length === 1 && !hasTwin && roots.every((root) => isIn(folder, root.folder) && root.folder !== folder);
    // Of several mods some may be there to choose from.
    const isOption = folders.size > 1 && CHOICE.test(folderOf(folder));
    return { from: folder, to, paths: own, why: 'mark', isSure: to !== undefined && isAlone && !isOption };
  });
}

/**
 * Says where the files of an archive belong that no known release has.
 * @param paths its files, without what was recognised by bytes
 * @param idIn the id that a text in a folder of the archive tells of its mod
 */
export function placeFiles(paths: readonly string[], ground: Ground, idIn: IdIn = () => undefined): Placement {
  const game = gameTreeOf(ground);
  const marks = marksOf(ground);
  const marked = markedFolders(paths, marks);
  const roots = rootsOf(paths, game);
  const certain = roots.filter(({ why }) => why !== 'same-folder');
  // Where mods have trees like the game's in folders of their own, such a tree tells nothing.
  const isUsual = marked.length > 0 && modsHaveTrees(ground, game, marks);
  const telling = isUsual
    ? certain.filter(({ folder }) => !marked.some((one) => folder === one.folder || isIn(folder, one.folder)))
    : certain;
  const parts: ArchivePart[] = [];
  const left = new Set(paths);
  const take = (part: ArchivePart): void => {
    if (part.paths.length === 0) return;
    parts.push(part);
    for (const path of part.paths) left.delete(path);
  };
  markedParts(marked, paths, telling, idIn).forEach(take);
  const isGames = (path: string): boolean => telling.some(({ folder }) => game.file(below(path, folder)) !== undefined);
  flatParts(
    [...left].filter((path) => !isGames(path)),
    marks,
  ).forEach(take);
  for (const { folder, why } of telling.toSorted((a, b) => a.folder.length - b.folder.length)) {
    const fits = (path: string): boolean => {
      const rest = below(path, folder);
      // Beside a mod's own files, or among the game's of its kind, a text or a picture is part of the mod.
      const isPart = !isNote(path) || game.isNamed(folderOf(rest)) || game.hasLike(rest);
      return isIn(path, folder) && (game.file(rest) !== undefined || (game.hasTop(rest) && isPart));
    };
    const own = [...left].filter(fits);
    // What lies where the player's own files do is never put there unasked; of settings of mods a release may bring a start.
    const isOwn = (place: string): boolean => !['presets', undefined].includes(ownKind(ground.rules, place));
    const isDoubtful = (place: string): boolean => isDoubled(place) || isOwn(place);
    const isSure = telling.length === 1 && !own.some((path) => isDoubtful(below(path, folder)));
    take({ from: folder, to: '', paths: own, why, isSure });
  }
  const withFiles = new Set([...left].flatMap((path) => (isNote(path) ? [] : [folderOf(path)])));
  // A picture beside files that nothing tells of may be one of them; of pictures alone in a folder the mod may consist.
  const isAsked = (path: string): boolean =>
    PICTURE.test(path) &&
    (withFiles.has(folderOf(path)) || (parts.length === 0 && withFiles.size === 0 && path.includes('/')));
  const aside = [...left].filter((path) => isNote(path) && !isAsked(path));
  for (const path of aside) left.delete(path);
  if (left.size > 0) {
    const rest = [...left];
    const like = roots.find(({ folder }) => rest.every((path) => isIn(path, folder)));
    if (parts.length === 0 && like) take({ from: like.folder, to: '', paths: rest, why: 'same-folder', isSure: false });
    else
      for (const [from, some] of byBranch(rest))
        take({ from, to: undefined, paths: some, why: 'nothing', isSure: false });
  }
  return { parts: asked(parts), aside };
}

/** Whether a mod that is known has a file in its own folder at a path that the game has too. */
function modsHaveTrees({ mods }: Ground, game: GameTree, marks: readonly Mark[]): boolean {
  const folders = marks.filter(({ ownFolder }) => ownFolder).map(({ folder }) => folder);
  for (const { path } of mods) {
    const folder = folders.find((one) => isBelow(path, one));
    if (folder === undefined) continue;
    const [, ...rest] = below(path, folder).split('/');
    if (rest.length > 1 && game.file(rest.join('/')) !== undefined) return true;
  }
  return false;
}

/** How paths are spelled in a game: a file that goes over one of the game's is the same file on any disk. */
export function spellingOf(ground: Ground): (path: string) => string {
  const game = gameTreeOf(ground);
  return (path) => game.spelled(path);
}
