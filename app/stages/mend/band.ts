import type { FileChange } from '#core/mend';
import { topFolder } from '#core/paths';
import { count } from '~/parts/format';

/** A part of the band is at least this high: its name has to fit beside it. */
export const LEAST_HEIGHT = 17;
/** Folders that have a part of the band to themselves. */
const MOST_PARTS = 16;

/** What a patch does to files, in the order in which it is drawn. */
export const CHANGES = ['changed', 'new', 'gone', 'moved'] as const;

/** A folder's part of the band, or that of all small folders together. */
export interface BandPart {
  readonly name: string;
  readonly files: number;
  readonly bytes: number;
  readonly kinds: Readonly<Record<FileChange['change'], number>>;
  readonly top: number;
  readonly height: number;
}

/** Where small folders are put together: no folder is called so. */
const REST = '/';

/**
 * A patch's files by the folder at the top, as parts of a band of this height: each as high as it has files, and high enough for
 * its name.
 * @returns the parts from the top, and the one that a path belongs to; undefined for one that the patch does not change there
 */
export function bandOf(
  changes: readonly FileChange[],
  height: number,
): { readonly parts: readonly BandPart[]; readonly partOf: (path: string) => BandPart | undefined } {
  const folders = new Map<string, FileChange[]>();
  for (const change of changes) {
    const folder = topFolder(change.path);
    const files = folders.get(folder);
    if (files) files.push(change);
    else folders.set(folder, [change]);
  }
  const fits = Math.max(1, Math.min(MOST_PARTS, Math.floor(height / LEAST_HEIGHT) - 1));
  const largest = [...folders].toSorted((a, b) => b[1].length - a[1].length).slice(0, fits);
  const own = new Set(largest.map(([folder]) => folder));
  const rest = [...folders].filter(([folder]) => !own.has(folder));
  const groups = [...folders].filter(([folder]) => own.has(folder));
  if (rest.length > 0) groups.push([REST, rest.flatMap(([, files]) => files)]);
  const spare = Math.max(0, height - LEAST_HEIGHT * groups.length);
  const parts = new Map<string, BandPart>();
  let top = 0;
  for (const [folder, files] of groups) {
    const kinds = { changed: 0, new: 0, gone: 0, moved: 0 };
    for (const { change } of files) kinds[change] += 1;
    const part = {
      name: folder === REST ? `${count(rest.length)} others` : folder || 'top folder',
      files: files.length,
      bytes: files.reduce((sum, { bytes }) => sum + bytes, 0),
      ...{ kinds, top, height: LEAST_HEIGHT + (spare * files.length) / changes.length },
    };
    parts.set(folder, part);
    top += part.height;
  }
  const partOf = (path: string): BandPart | undefined => {
    const folder = topFolder(path);
    return parts.get(folder) ?? (folders.has(folder) ? parts.get(REST) : undefined);
  };
  return { parts: [...parts.values()], partOf };
}
