import type { ContentKey } from '#core/digest';
import type { Keepsake, OwnFile } from './keepsake';

/** The name of a file of the player's among all of them. */
export const ownName = ({ place, path }: Pick<OwnFile, 'place' | 'path'>): string => `${place}/${path}`;

/** A kept file, and what putting it back would do. */
export interface KeptRow extends OwnFile {
  /** What lies in its place now; null where nothing does, or nobody can tell. */
  readonly now: ContentKey | null;
  /** `unknown` where its place cannot be read now. */
  readonly does: 'nothing' | 'replaces' | 'returns' | 'unknown';
}

/** Whether putting a kept file back changes anything, as far as it can be done now. */
export const isPutBack = ({ does }: Pick<KeptRow, 'does'>): boolean => does === 'replaces' || does === 'returns';

/** What putting a keepsake back would do. */
export interface PutBack {
  /** Every kept file, in their order. */
  readonly rows: readonly KeptRow[];
  /** Files of now that the keepsake has not: made since, or of a place that it was not made of. They stay, unless told. */
  readonly since: readonly OwnFile[];
}

/** Holds what was kept against what lies there now. */
export function putBack(kept: readonly OwnFile[], now: readonly OwnFile[]): PutBack {
  const there = new Map(now.map((file) => [ownName(file), file]));
  const rows = kept.map((file): KeptRow => {
    const other = there.get(ownName(file));
    const does = !other ? 'returns' : other.key === file.key ? 'nothing' : 'replaces';
    return { ...file, now: other?.key ?? null, does };
  });
  const names = new Set(kept.map(ownName));
  return { rows, since: now.filter((file) => !names.has(ownName(file))) };
}

/**
 * Holds a keepsake against what lies there now, as {@link putBack}: what it says itself that it lacks was not made since. One that has only
 * files of no rule was made of these alone, before they were deleted, and says nothing of any other.
 * @param isRead whether a place could be read now; all of them, where it is left out
 */
export function putBackOf(
  { files, unread = [] }: Pick<Keepsake, 'files' | 'unread'>,
  now: readonly OwnFile[],
  isRead: (place: string) => boolean = () => true,
): PutBack {
  const { rows: all, since } = putBack(files, now);
  const rows = all.map((row) => (isRead(row.place) ? row : { ...row, does: 'unknown' as const }));
  const lacks = new Set(unread);
  const isPart = files.length > 0 && files.every(({ along }) => along);
  return { rows, since: isPart ? [] : since.filter(({ path }) => !lacks.has(path)) };
}

/** Whether two lists have the same files with the same bytes, whatever their order and times. */
export function isSameOwn(a: readonly OwnFile[], b: readonly OwnFile[]): boolean {
  if (a.length !== b.length) return false;
  const { rows } = putBack(a, b);
  return rows.every(({ does }) => does === 'nothing');
}
