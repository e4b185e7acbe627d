import type { Difference } from './difference';

/* What a side did, in few words. */

/** Changes of one kind in one column, or of whole rows, columns, lines. */
export interface ChangeSummary {
  readonly did: 'raised' | 'lowered' | 'changed' | 'added' | 'removed' | 'renamed';
  readonly what: Difference['what'];
  /** The column, or the last part of the places; of rows, columns and lines nothing. */
  readonly name: string | undefined;
  readonly count: number;
  /** Of numbers that were raised or lowered: by how much, at least and at most. */
  readonly by?: readonly [least: number, most: number];
  /** The first of them, as they are called. */
  readonly first: string;
}

const NUMBER = /^-?\d+(?:\.\d+)?$/;

/** What one side did to the base, the most frequent first. */
export function summaryOf(differences: readonly Difference[], side: 'ours' | 'theirs'): ChangeSummary[] {
  const groups = new Map<string, { -readonly [K in keyof ChangeSummary]: ChangeSummary[K] }>();
  for (const difference of differences) {
    const { what, path, base, by } = difference;
    const now = difference[side];
    if (now === base || (by !== side && by !== 'conflict' && by !== 'alike')) continue;
    const isNumber = base !== undefined && now !== undefined && NUMBER.test(base) && NUMBER.test(now);
    const step = isNumber ? Number(now) - Number(base) : 0;
    const did =
      base === undefined
        ? 'added'
        : now === undefined
          ? 'removed'
          : what === 'column'
            ? 'renamed'
            : step > 0
              ? 'raised'
              : step < 0
                ? 'lowered'
                : 'changed';
    const name =
      what === 'cell' || (what === 'value' && base !== undefined && now !== undefined) ? path.at(-1) : undefined;
    const first = what === 'column' ? (now ?? base)! : (path[0] ?? '');
    const key = JSON.stringify([did, what, name]);
    const group = groups.get(key) ?? { did, what, name, count: 0, first };
    group.count += 1;
    if (step !== 0) {
      const amount = Math.abs(step);
      const [least, most] = group.by ?? [amount, amount];
      group.by = [Math.min(least, amount), Math.max(most, amount)];
    }
    groups.set(key, group);
  }
  return [...groups.values()].toSorted((a, b) => b.count - a.count);
}
