import { type Decide, Differences, type Merge } from './difference';
import { mergeParts, type Part } from './three-way';

/* Texts, line by line. */

/** The lines of a text with what ends them; all of them together are the text. */
export const linesOf = (text: string): string[] => text.match(/[^\n]*\n|[^\n]+$/g) ?? [];

/** Numbers lines, so that equal ones have one number. */
export function numberedLines(lines: readonly string[], numbers: Map<string, number>): Int32Array {
  return Int32Array.from(lines, (line) => {
    const known = numbers.get(line);
    if (known !== undefined) return known;
    numbers.set(line, numbers.size);
    return numbers.size - 1;
  });
}

const withoutEnd = (line: string): string => line.replace(/\r?\n$/, '');

/** The end of most lines of a text. */
function endOf(lines: readonly string[]): string {
  const returns = lines.filter((line) => line.endsWith('\r\n')).length;
  return returns * 2 > lines.length ? '\r\n' : '\n';
}

type Three<T> = readonly [base: T, ours: T, theirs: T];

function merged([base, ours, theirs]: Three<string[]>, parts: readonly Part[], decide: Decide, end?: string): Merge {
  const found = new Differences(decide);
  const all: string[] = [];
  const textOf = (lines: readonly string[], [from, to]: readonly [number, number]): string | undefined =>
    from === to ? undefined : lines.slice(from, to).join('');
  for (const part of parts) {
    if (part.take === 'base') {
      for (let i = part.ours[0]; i < part.ours[1]; i++) all.push(ours[i]!);
      continue;
    }
    const path = [String(part.base[0] + 1)];
    const texts = { base: textOf(base, part.base), ours: textOf(ours, part.ours), theirs: textOf(theirs, part.theirs) };
    const by = part.take === 'same' ? 'alike' : part.take;
    const counts = found.note({ path, what: 'lines', ...texts, by });
    if (typeof counts === 'object') {
      const value = counts.value;
      all.push(value === '' || value.endsWith('\n') ? value : value + (end ?? endOf(ours)));
    } else if (counts === 'ours') for (const line of ours.slice(...part.ours)) all.push(line);
    else for (const line of theirs.slice(...part.theirs)) all.push(end === undefined ? line : withoutEnd(line) + end);
  }
  return { differences: found.all, merged: found.isOpen ? undefined : all.join('') };
}

/** Merges two texts that were made from a third. Where the ends of lines alone keep them apart, they do not count. */
export function mergeText(base: string, ours: string, theirs: string, decide: Decide = () => undefined): Merge {
  const lines: Three<string[]> = [linesOf(base), linesOf(ours), linesOf(theirs)];
  const partsOf = (three: Three<readonly string[]>): Part[] => {
    const numbers = new Map<string, number>();
    return mergeParts(
      numberedLines(three[0], numbers),
      numberedLines(three[1], numbers),
      numberedLines(three[2], numbers),
    );
  };
  const parts = partsOf(lines);
  const ends = new Set(lines.map(endOf));
  if (ends.size === 1 || !parts.some(({ take }) => take === 'conflict')) return merged(lines, parts, decide);
  const plain = lines.map((some) => some.map(withoutEnd)) as unknown as Three<string[]>;
  return merged(lines, partsOf(plain), decide, endOf(lines[1]));
}
