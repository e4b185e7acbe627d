import { type ContentKey, keySize } from '#core/digest';
import { type ChangeSet, type Journalled, keptPath, PLACES, treeFolder } from '#core/changes';
import { isBelow } from '#core/paths';
import type { FolderEntry } from '#core/folders';
import type { Reference } from './references';

/**
 * Files that a set which has ended keeps outside the game's folder, and their bytes. A folder that it has made is the game's, which
 * other sets change; once it is put aside, the set that does so says what is left in it.
 */
export function keptBy({ set, way, ended }: Journalled, current: string): [path: string, key: ContentKey][] {
  if (!ended) return [];
  const made = set.steps.find((step) => step.do === 'exchange')?.to;
  const isMade = (path: string): boolean => made !== undefined && isBelow(path, treeFolder(made));
  const kept = set.steps.flatMap((step, i): [string, ContentKey][] => {
    switch (step.do) {
      case 'copy':
      case 'write':
        return way === 'on' && (isPlaced(set, step.to) || isMade(step.to)) ? [] : [[step.to, step.key]];
      case 'place':
        return way === 'on' && step.before !== null ? [[keptPath(set.id, i), step.before]] : [];
      case 'take':
        return way === 'on' ? [[keptPath(set.id, i), step.key]] : [];
      case 'exchange':
        return way === 'back' || step.from === current
          ? []
          : (step.leaves ?? []).map(([path, key]) => [`${treeFolder(step.from)}/${path}`, key]);
      case 'move':
      case 'flag':
        return [];
    }
  });
  return kept.filter(([path]) => !isBelow(path, treeFolder(current)));
}

/** What lies on a disk, besides contents of the store by path, those by their names. */
export interface FilesThere {
  readonly sizes: ReadonlyMap<string, number>;
  readonly contents: ReadonlyMap<string, FolderEntry>;
}

/** Whether what was got ready has been put in the game's folder since. */
const isPlaced = ({ id }: ChangeSet, path: string): boolean => isBelow(path, `${PLACES.staged}/${id}`);

/**
 * Where contents are to be had on the disk besides the game's folder: in the store, as what changes have displaced, in
 * folders that were put aside.
 * @param there what is gone, or has another size, is not counted on
 */
export function storedContents(
  sets: readonly Journalled[],
  references: readonly Reference[],
  current: string,
  { sizes, contents }: FilesThere,
): Map<ContentKey, string> {
  const stored = new Map<ContentKey, string>();
  for (const reference of references) {
    for (const [name, key] of reference.contents) {
      const entry = contents.get(name);
      if (entry?.size === keySize(key) && !stored.has(key)) stored.set(key, entry.path);
    }
  }
  for (const set of sets) {
    for (const [path, key] of keptBy(set, current))
      if (!stored.has(key) && sizes.get(path) === keySize(key)) stored.set(key, path);
  }
  return stored;
}
