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

/** What nobody minds in a clean folder: the mods', the loader's, the player's own. */
const belongs = (name: StrayName | undefined): boolean =>
  name !== undefined && name.kind !== 'leftover' && name.kind !== 'learned' && name.kind !== 'unknown';

/** A file that a mod or the player put over one of the build stays: it is theirs. */
export function cleaning(
  rows: readonly SurveyRow[],
  names: ReadonlyMap<string, StrayName>,
  found: readonly FoundFile[],
): Cleaning {
  const sums = { setAside: { files: 0, bytes: 0 }, moveBack: { files: 0, bytes: 0 }, fetch: { files: 0, bytes: 0 } };
  const onDisk = new Set<ContentKey>(found.map(({ key }) => key));
  const add = (what: keyof Cleaning, bytes: number): void => {
    sums[what].files += 1;
    sums[what].bytes += bytes;
  };
  for (const { path, state, size, expected } of rows) {
    if (state === 'true' || state === 'unreadable' || belongs(names.get(path))) continue;
    if (state === 'stray') add('setAside', size);
    else if (expected !== undefined) add(onDisk.has(expected) ? 'moveBack' : 'fetch', keySize(expected));
  }
  return sums;
}
