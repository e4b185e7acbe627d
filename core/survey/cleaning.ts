import { type ContentKey, keySize } from '#core/digest';
import type { FoundFile, SurveyRow } from './compare';
import type { StrayName } from './strays';
import type { FilesAndBytes } from './table';

/** What it takes until a folder holds its build, the mods and the player's own, and nothing else. */
export interface Cleaning {
  /** Strays that are left over from a build or of nobody known. */
  readonly setAside: FilesAndBytes;
  /** Files of the build whose bytes lie elsewhere in the folder. */
  readonly moveBack: FilesAndBytes;
  /** Files of the build whose bytes are nowhere in the folder. */
  readonly fetch: FilesAndBytes;
}

/** What is done to one file so that a folder is clean. */
export interface CleaningRow {
  readonly path: string;
  readonly does: keyof Cleaning;
  /** Bytes that are set aside, or put in place. */
  readonly size: number;
}

/** What nobody minds in a clean folder: the mods', the loader's, the player's own. */
const belongs = (name: StrayName | undefined): boolean =>
  name !== undefined && name.kind !== 'leftover' && name.kind !== 'learned' && name.kind !== 'unknown';

/** What is to be done, file by file. One that a mod or the player put over one of the build stays: it is theirs. */
export function cleaningRows(
  rows: readonly SurveyRow[],
  names: ReadonlyMap<string, StrayName>,
  found: readonly FoundFile[],
): CleaningRow[] {
  const onDisk = new Set<ContentKey>(found.map(({ key }) => key));
  return rows.flatMap(({ path, state, size, expected }): CleaningRow[] => {
    if (state === 'true' || state === 'unreadable' || belongs(names.get(path))) return [];
    if (state === 'stray') return [{ path, does: 'setAside', size }];
    if (expected === undefined) return [];
    return [{ path, does: onDisk.has(expected) ? 'moveBack' : 'fetch', size: keySize(expected) }];
  });
}

/** How much is to be done of each kind. */
export function cleaning(rows: readonly CleaningRow[]): Cleaning {
  const sums = { setAside: { files: 0, bytes: 0 }, moveBack: { files: 0, bytes: 0 }, fetch: { files: 0, bytes: 0 } };
  for (const { does, size } of rows) {
    sums[does].files += 1;
    sums[does].bytes += size;
  }
  return sums;
}
