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

/** `true`: the right bytes. `altered`: other bytes. `absent`: expected, not there. `stray`: there, not expected. */
export type FileState = 'true' | 'altered' | 'absent' | 'stray';

export interface SurveyRow {
  readonly path: string;
  readonly state: FileState;
  /** Bytes on disk; those expected where the file is absent. */
  readonly size: number;
  readonly expected?: ContentKey;
  readonly found?: ContentKey;
}

const byPath = (a: { path: string }, b: { path: string }): number => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0);

/** Holds a folder against the tree that it should be. One row for every path of either, sorted by path. */
export function compareTree(expected: readonly ExpectedFile[], found: readonly FoundFile[]): SurveyRow[] {
  const wanted = new Map(expected.map((file) => [file.path, file]));
  const rows: SurveyRow[] = found.map(({ path, size, key }) => {
    const want = wanted.get(path);
    wanted.delete(path);
    if (!want) return { path, state: 'stray', size, found: key };
    return { path, state: want.key === key ? 'true' : 'altered', size, expected: want.key, found: key };
  });
  for (const { path, size, key } of wanted.values()) rows.push({ path, state: 'absent', size, expected: key });
  return rows.toSorted(byPath);
}

export function countStates(rows: readonly SurveyRow[]): Record<FileState, { files: number; bytes: number }> {
  const counts = {
    true: { files: 0, bytes: 0 },
    altered: { files: 0, bytes: 0 },
    absent: { files: 0, bytes: 0 },
    stray: { files: 0, bytes: 0 },
  };
  for (const { state, size } of rows) {
    counts[state].files++;
    counts[state].bytes += size;
  }
  return counts;
}

/** The rows that are not `true`. */
export function departures(rows: readonly SurveyRow[]): SurveyRow[] {
  return rows.filter(({ state }) => state !== 'true');
}
