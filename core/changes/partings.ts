import type { FolderEntry } from '#core/folders';

/* What two folders of one game differ by that is a player's, when the one is put aside and the other comes in its place. */

/** A file of the player's, or of nobody who is known, that is not the same in both folders. */
export interface Parting {
  /** Below either folder. */
  readonly path: string;
  /** In the folder that is put aside; undefined where only the other one has it. */
  readonly leaving: FolderEntry | undefined;
  readonly coming: FolderEntry | undefined;
}

/** Files below a folder by their paths there. */
const below = (files: readonly FolderEntry[], folder: string): Map<string, FolderEntry> =>
  new Map(files.map((file) => [file.path.slice(folder.length + 1), file]));

/**
 * Files in which two folders differ, by names, sizes and times, without those that somebody else has.
 * @param leaving all files of the folder that is put aside, with their paths on the disk
 * @param coming all files of the one that comes
 * @param isTheirs whether a file of the one, or of the other, is the player's, or nobody's who is known
 */
export function partings(
  [leavingFolder, leaving]: readonly [folder: string, files: readonly FolderEntry[]],
  [comingFolder, coming]: readonly [folder: string, files: readonly FolderEntry[]],
  isTheirs: Readonly<Record<'leaving' | 'coming', (path: string, file: FolderEntry) => boolean>>,
): Parting[] {
  const [out, into] = [below(leaving, leavingFolder), below(coming, comingFolder)];
  const differ: Parting[] = [];
  for (const path of new Set([...out.keys(), ...into.keys()])) {
    const [left, came] = [out.get(path), into.get(path)];
    if (left && came && left.size === came.size && left.modified === came.modified) continue;
    if ((left && isTheirs.leaving(path, left)) || (came && isTheirs.coming(path, came)))
      differ.push({ path, leaving: left, coming: came });
  }
  return differ.toSorted((a, b) => (a.path < b.path ? -1 : 1));
}
