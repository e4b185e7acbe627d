import type { ContentKey } from '#core/digest';

export interface ExpectedFile {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
}

/** A file that lies in a folder; its key was computed from its bytes. */
export interface FoundFile {
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  readonly key: ContentKey;
}

/**
 * `true`: the right bytes. `altered`: other bytes. `absent`: expected, not there. `stray`: there, not expected.
 * `unreadable`: nobody could look.
 */
export type FileState = 'true' | 'altered' | 'absent' | 'stray' | 'unreadable';

export interface SurveyRow {
  readonly path: string;
  readonly state: FileState;
  /** Bytes on disk; those expected where the file is absent. */
  readonly size: number;
  readonly expected?: ContentKey;
  readonly found?: ContentKey;
}

/** Files sorted by path in code-unit order; as they are where they are so already, which costs a look at each. */
function sortedByPath<T extends { readonly path: string }>(files: readonly T[]): readonly T[] {
  const sorted = files.every((file, i) => i === 0 || files[i - 1]!.path < file.path);
  return sorted ? files : files.toSorted((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0));
}

const keysOf = new WeakMap<readonly FoundFile[], ReadonlyMap<string, ContentKey>>();

/** The content at each path of a folder; made once for the same list, which many ask. */
export function keysByPath(found: readonly FoundFile[]): ReadonlyMap<string, ContentKey> {
  const known = keysOf.get(found);
  if (known) return known;
  const keys = new Map<string, ContentKey>();
  for (const { path, key } of found) keys.set(path, key);
  keysOf.set(found, keys);
  return keys;
}

/** The rows of a folder held against the tree that it should be, without those that are `true` unless they are wanted. */
function rowsOf(expected: readonly ExpectedFile[], found: readonly FoundFile[], withTrue: boolean): SurveyRow[] {
  const [wanted, here] = [sortedByPath(expected), sortedByPath(found)];
  const rows: SurveyRow[] = [];
  for (let i = 0, j = 0; i < wanted.length || j < here.length;) {
    const [want, file] = [wanted[i], here[j]];
    if (want && (!file || want.path < file.path)) {
      rows.push({ path: want.path, state: 'absent', size: want.size, expected: want.key });
      i += 1;
    } else if (!want || file!.path < want.path) {
      rows.push({ path: file!.path, state: 'stray', size: file!.size, found: file!.key });
      j += 1;
    } else {
      const { path, size, key } = file!;
      const isTrue = want.key === key;
      if (withTrue || !isTrue)
        rows.push({ path, state: isTrue ? 'true' : 'altered', size, expected: want.key, found: key });
      i += 1;
      j += 1;
    }
  }
  return rows;
}

/** Holds a folder against the tree that it should be. One row for every path of either, sorted by path. */
export const compareTree = (expected: readonly ExpectedFile[], found: readonly FoundFile[]): SurveyRow[] =>
  rowsOf(expected, found, true);

/** The rows of {@link compareTree} that are not `true`, without making the others. */
export const departures = (expected: readonly ExpectedFile[], found: readonly FoundFile[]): SurveyRow[] =>
  rowsOf(expected, found, false);

/** Whether a path is one of `paths`, or lies in one of them. */
function isAtOrBelow(path: string, paths: ReadonlySet<string>): boolean {
  for (let end = path.length; end > 0; end = path.lastIndexOf('/', end - 1)) {
    if (paths.has(path.slice(0, end))) return true;
  }
  return false;
}

/**
 * Rows of a folder of which parts could not be read: what seems absent there may well be there.
 * @param unreadable files, and folders with all that is in them
 */
export function withUnreadable(rows: readonly SurveyRow[], unreadable: readonly string[]): readonly SurveyRow[] {
  if (unreadable.length === 0) return rows;
  const paths = new Set(unreadable);
  return rows.map((row) =>
    row.state === 'absent' && isAtOrBelow(row.path, paths) ? { ...row, state: 'unreadable' } : row,
  );
}

export function countStates(rows: readonly SurveyRow[]): Record<FileState, { files: number; bytes: number }> {
  const counts = {
    true: { files: 0, bytes: 0 },
    altered: { files: 0, bytes: 0 },
    absent: { files: 0, bytes: 0 },
    stray: { files: 0, bytes: 0 },
    unreadable: { files: 0, bytes: 0 },
  };
  for (const { state, size } of rows) {
    counts[state].files++;
    counts[state].bytes += size;
  }
  return counts;
}
