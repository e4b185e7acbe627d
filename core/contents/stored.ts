import { type ContentKey, keySize } from '#core/digest';
import { asideOf, type ChangeSet, isAsRead, type Journalled, keptPath, PLACES, treeFolder } from '#core/changes';
import { isBelow } from '#core/paths';
import type { FolderEntry } from '#core/folders';
import type { Reference } from './references';

/** A file that is kept outside the game's folder. */
export interface KeptFile {
  readonly path: string;
  readonly key: ContentKey;
  /** The time that it had when it was read, where that was noted; milliseconds since 1970. */
  readonly modified?: number | undefined;
}

/** Files that a set which has ended keeps outside the game's folder, and their bytes. */
export function keptBy(at: Journalled, current: string): KeptFile[] {
  const { set, way, ended } = at;
  if (!ended || way === undefined) return [];
  const aside = asideOf(at, current);
  const inAside = [...(aside?.known ?? [])].map(([path, file]): KeptFile => ({ path, ...file }));
  const made = set.steps.find((step) => step.do === 'exchange')?.to;
  const isMade = (path: string): boolean => made !== undefined && isBelow(path, treeFolder(made));
  /** What was got ready and is to be put in place: others' bytes may have come back in its stead. */
  const placed = new Map(set.steps.flatMap((step) => (step.do === 'place' ? [[step.from, step.key] as const] : [])));
  const kept = set.steps.flatMap((step, i): KeptFile[] => {
    switch (step.do) {
      case 'copy':
      case 'write':
        if (isMade(step.to) || placed.has(step.to) || (way === 'on' && isPlaced(set, step.to))) return [];
        return [{ path: step.to, key: step.key }];
      case 'place':
        if (way === 'back') return [{ path: step.from, key: step.key }];
        return step.before === null ? [] : [{ path: keptPath(set.id, i), key: step.before }];
      case 'take':
        return way === 'on' ? [{ path: keptPath(set.id, i), key: step.key }] : [];
      case 'exchange':
      case 'move':
      case 'flag':
      case 'leave':
        return [];
    }
  });
  return [...kept, ...inAside].filter(({ path }) => !isBelow(path, treeFolder(current)));
}

/** What lies on a disk, besides contents of the store by path, those by their names. */
export interface FilesThere {
  readonly files: ReadonlyMap<string, FolderEntry>;
  readonly contents: ReadonlyMap<string, FolderEntry>;
}

/** Whether a kept file still lies where it was kept, as far as size and time tell. */
export function isThere({ path, key, modified }: KeptFile, files: FilesThere['files']): boolean {
  const entry = files.get(path);
  return entry !== undefined && isAsRead(entry, { key, modified });
}

/** Whether what was got ready has been put in the game's folder since. */
const isPlaced = ({ id }: ChangeSet, path: string): boolean => isBelow(path, `${PLACES.staged}/${id}`);

/**
 * Where contents are to be had on the disk besides the game's folder: in the store, as what changes have displaced, in
 * folders that were put aside.
 * @param there what is gone, or is not as it was read, is not counted on
 */
export function storedContents(
  sets: readonly Journalled[],
  references: readonly Reference[],
  current: string,
  { files, contents }: FilesThere,
): Map<ContentKey, string> {
  const stored = new Map<ContentKey, string>();
  for (const reference of references) {
    for (const [name, key] of reference.contents) {
      const entry = contents.get(name);
      if (entry?.size === keySize(key) && !stored.has(key)) stored.set(key, entry.path);
    }
  }
  for (const set of sets) {
    for (const kept of keptBy(set, current))
      if (!stored.has(kept.key) && isThere(kept, files)) stored.set(kept.key, kept.path);
  }
  return stored;
}
