import type { ContentKey } from '#core/digest';

/** What a patch does to one path. A file that turns up with the same bytes at another path has moved. */
export type FileChange =
  | { readonly path: string; readonly change: 'changed' | 'new' | 'gone'; readonly bytes: number }
  | { readonly path: string; readonly change: 'moved'; readonly to: string; readonly bytes: number };

export interface PatchImpact {
  readonly changes: readonly FileChange[];
  /** Every path whose file is not as it was, for quick asking. */
  readonly touched: ReadonlySet<string>;
}

interface TreeFile {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
}

/** The difference of two builds' trees, file by file, sorted by path. It needs no contents, only manifests. */
export function patchImpact(from: readonly TreeFile[], to: readonly TreeFile[]): PatchImpact {
  const before = new Map(from.map((file) => [file.path, file]));
  const after = new Map(to.map((file) => [file.path, file]));
  const arrivals = new Map(to.filter(({ path }) => !before.has(path)).map((file) => [file.key, file.path]));
  const arrivedByMove = new Set<string>();
  const changes: FileChange[] = [];
  for (const { path, size, key } of from) {
    const now = after.get(path);
    if (now) {
      if (now.key !== key) changes.push({ path, change: 'changed', bytes: now.size });
      continue;
    }
    const movedTo = arrivals.get(key);
    if (movedTo === undefined || arrivedByMove.has(movedTo)) changes.push({ path, change: 'gone', bytes: size });
    else {
      arrivedByMove.add(movedTo);
      changes.push({ path, change: 'moved', to: movedTo, bytes: size });
    }
  }
  for (const { path, size } of to) {
    if (!before.has(path) && !arrivedByMove.has(path)) changes.push({ path, change: 'new', bytes: size });
  }
  changes.sort((a, b) => (a.path < b.path ? -1 : 1));
  const touched = new Set(changes.flatMap((c) => (c.change === 'moved' ? [c.path, c.to] : [c.path])));
  return { changes, touched };
}
