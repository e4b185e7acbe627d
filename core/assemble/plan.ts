import type { ContentKey } from '#core/digest';
import { type GameRules, ownKind } from '#core/builds';
import type { FetchItem, Source } from '#core/fetch';
import type { FoundFile } from '#core/survey';

/** What is done for one file of the new folder. */
export interface LayDownRow {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
  readonly source: Exclude<Source, { how: 'fetch' }>;
  readonly text?: string;
  /** Stays as it is, and is no part of what is held: the player's own, what is to come along, what is not waited for. */
  readonly own: boolean;
}

export interface LayDownPlan {
  readonly rows: readonly LayDownRow[];
  /** Files of the old folder whose bytes nothing in the new one uses at that path: they stay in the old folder. */
  readonly leftBehind: readonly FoundFile[];
  /** Files that are not on disk yet. The plan can be carried out only when there are none. */
  readonly missing: readonly FetchItem[];
}

/**
 * Plans a new folder beside the old one. The target's files come from wherever their bytes are; the player's own files
 * come along unless the target has a file at their path; everything else stays behind.
 * @param along paths of files that come along besides, as the person says
 * @param without paths of files that are not waited for: where one is missing, what the folder has there stays
 */
export function layDownPlan(
  items: readonly FetchItem[],
  found: readonly FoundFile[],
  rules: GameRules,
  along: ReadonlySet<string> = new Set(),
  without: ReadonlySet<string> = new Set(),
): LayDownPlan {
  const rows: LayDownRow[] = [];
  const missing: FetchItem[] = [];
  const targetKeys = new Map(items.map(({ path, key }) => [path, key]));
  const stays = new Set<string>();
  for (const item of items) {
    const { path, size, key, source, owner } = item;
    if (source.how === 'fetch') {
      if (without.has(path)) stays.add(path);
      else missing.push(item);
      continue;
    }
    rows.push({ path, size, key, source, own: false, ...(owner.kind === 'written' ? { text: owner.text } : {}) });
  }
  const leftBehind: FoundFile[] = [];
  for (const file of found) {
    if (stays.has(file.path)) {
      rows.push({ ...file, source: { how: 'keep', path: file.path }, own: true });
    } else if (targetKeys.has(file.path)) {
      if (targetKeys.get(file.path) !== file.key) leftBehind.push(file);
    } else if (ownKind(rules, file.path) || along.has(file.path)) {
      rows.push({ ...file, source: { how: 'keep', path: file.path }, own: true });
    } else {
      leftBehind.push(file);
    }
  }
  return { rows: rows.toSorted((a, b) => (a.path < b.path ? -1 : 1)), leftBehind, missing };
}
