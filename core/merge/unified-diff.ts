import { type Change, changesBetween } from './diff';
import { linesOf, numberedLines } from './text';

/* What makes one text of another, as GNU diff writes it (unified format), which patch reads. */

const CONTEXT = 3;

/** Changes whose surroundings touch stand together. */
function hunksOf(changes: readonly Change[]): Change[][] {
  const hunks: Change[][] = [];
  for (const change of changes) {
    const last = hunks.at(-1)?.at(-1);
    if (last && change.from - (last.from + last.removed) <= 2 * CONTEXT) hunks.at(-1)!.push(change);
    else hunks.push([change]);
  }
  return hunks;
}

const span = (from: number, count: number): string =>
  count === 1 ? String(from + 1) : `${count === 0 ? from : from + 1},${count}`;

const written = (sign: string, line: string): string =>
  line.endsWith('\n') ? sign + line : `${sign}${line}\n\\ No newline at end of file\n`;

/** Lines of a text, from 1, that another one has not in their place. */
export function changedLines(before: string, after: string): ReadonlySet<number> {
  const numbers = new Map<string, number>();
  const changes = changesBetween(numberedLines(linesOf(before), numbers), numberedLines(linesOf(after), numbers));
  return new Set(changes.flatMap(({ to, added }) => Array.from({ length: added }, (_, i) => to + i + 1)));
}

/**
 * What makes one text of another; empty where they are the same.
 * @param path of the file, as both are named
 */
export function unifiedDiff(path: string, before: string, after: string): string {
  const [a, b] = [linesOf(before), linesOf(after)];
  const numbers = new Map<string, number>();
  const changes = changesBetween(numberedLines(a, numbers), numberedLines(b, numbers));
  if (changes.length === 0) return '';
  let text = `--- a/${path}\n+++ b/${path}\n`;
  for (const hunk of hunksOf(changes)) {
    const [first, last] = [hunk[0]!, hunk.at(-1)!];
    const start = Math.max(0, first.from - CONTEXT);
    const end = Math.min(a.length, last.from + last.removed + CONTEXT);
    const startB = first.to - (first.from - start);
    const grown = hunk.reduce((sum, { added, removed }) => sum + added - removed, 0);
    text += `@@ -${span(start, end - start)} +${span(startB, end - start + grown)} @@\n`;
    let at = start;
    for (const { from, removed, to, added } of hunk) {
      for (const line of a.slice(at, from)) text += written(' ', line);
      for (const line of a.slice(from, from + removed)) text += written('-', line);
      for (const line of b.slice(to, to + added)) text += written('+', line);
      at = from + removed;
    }
    for (const line of a.slice(at, end)) text += written(' ', line);
  }
  return text;
}
