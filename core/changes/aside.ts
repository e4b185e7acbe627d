import { type ContentKey, keySize } from '#core/digest';
import type { FolderEntry } from '#core/folders';
import type { Journalled } from './journal';
import { treeFolder } from './schema';
import { isReady } from './steps';

/*
 * A tree that a set has put aside: what of it was read before, and counts as long as size and time are as they were then;
 * and what is a player's, or was changed since by whomever, so that nobody else may have it.
 */

/** A file of a tree that was put aside, as it was read. */
export interface AsideFile {
  readonly key: ContentKey;
  /** Milliseconds since 1970; undefined where that was not noted: then its size alone tells. */
  readonly modified: number | undefined;
  /** No source and no plan has it. */
  readonly own: boolean;
}

/** The tree that a set which has ended keeps put aside, and what is known of the files in it, by their paths on the disk. */
export interface Aside {
  readonly tree: string;
  /** It has been the game's folder, so that others may have changed it. */
  readonly counted: boolean;
  readonly known: ReadonlyMap<string, AsideFile>;
}

/** What a set has put into a tree that it has made, as it was proven there. */
function madeIn({ set }: Journalled, tree: string): [path: string, file: AsideFile][] {
  const below = `${treeFolder(tree)}/`;
  return set.steps.flatMap((step): [string, AsideFile][] =>
    (step.do === 'copy' || step.do === 'write') && step.to.startsWith(below)
      ? [[step.to, { key: step.key, modified: undefined, own: false }]]
      : [],
  );
}

/** @param current the tree that is the game's folder */
export function asideOf(at: Journalled, current: string): Aside | undefined {
  const exchange = at.set.steps.find((step) => step.do === 'exchange');
  if (!exchange || !at.ended || at.way === undefined || at.begunAt === undefined) return undefined;
  const tree = at.way === 'on' ? exchange.from : exchange.to;
  if (tree === current) return undefined;
  const told = at.leaves ?? (at.way === 'on' ? exchange.leaves : undefined);
  const known = told?.map(([path, key, modified, own]): [string, AsideFile] => [
    `${treeFolder(tree)}/${path}`,
    { key, modified: modified ?? undefined, own: own === true },
  ]);
  // The two are swapped once all is ready.
  const counted = at.way === 'on' || at.ready >= at.set.steps.findLastIndex(isReady) + 1;
  return { tree, counted, known: new Map(known ?? (at.way === 'back' ? madeIn(at, tree) : [])) };
}

/** Whether a file is still as it was read, as far as size and time tell. */
export const isAsRead = (
  { size, modified }: FolderEntry,
  file: Pick<AsideFile, 'key' | 'modified'> | undefined,
): boolean =>
  file !== undefined && size === keySize(file.key) && (file.modified === undefined || file.modified === modified);

/** What lies in a tree that was put aside and is a player's, was not read before, or has been changed since. */
export const othersIn = ({ known }: Aside, files: readonly FolderEntry[]): FolderEntry[] =>
  files.filter((file) => known.get(file.path)?.own !== false || !isAsRead(file, known.get(file.path)));

/** What is otherwise in a tree that was put aside than it was read there, by paths below the tree. */
export interface Spoiled {
  readonly gone: readonly string[];
  /** Its size or time is another. */
  readonly changed: readonly string[];
}

/** Says what is gone from a tree that was put aside, or was changed in it since. @param files that lie there now */
export function spoiledIn({ tree, known }: Aside, files: readonly FolderEntry[]): Spoiled {
  const there = new Map(files.map((file) => [file.path, file]));
  const [gone, changed]: [string[], string[]] = [[], []];
  for (const [path, file] of known) {
    const now = there.get(path);
    if (!now) gone.push(path.slice(treeFolder(tree).length + 1));
    else if (!isAsRead(now, file)) changed.push(path.slice(treeFolder(tree).length + 1));
  }
  return { gone, changed };
}
