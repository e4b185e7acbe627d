import { mergeParts, type Part } from './three-way';

/* Texts, line by line. */

/** A merge of three texts. */
export interface TextMerge {
  /** The lines of each, with what ends them. */
  readonly lines: Readonly<Record<'base' | 'ours' | 'theirs', readonly string[]>>;
  readonly parts: readonly Part[];
  /** Parts that both have changed, and not alike. */
  readonly conflicts: readonly Part[];
}

/** The lines of a text with what ends them; all of them together are the text. */
export const linesOf = (text: string): string[] => text.match(/[^\n]*\n|[^\n]+$/g) ?? [];

/** Numbers lines, so that equal ones have one number. */
class Numbering {
  readonly #numbers = new Map<string, number>();

  of(lines: readonly string[]): Int32Array {
    return Int32Array.from(lines, (line) => {
      const known = this.#numbers.get(line);
      if (known !== undefined) return known;
      this.#numbers.set(line, this.#numbers.size);
      return this.#numbers.size - 1;
    });
  }
}

/** Merges two texts that were made from a third. */
export function mergeText(base: string, ours: string, theirs: string): TextMerge {
  const lines = { base: linesOf(base), ours: linesOf(ours), theirs: linesOf(theirs) };
  const numbering = new Numbering();
  const parts = mergeParts(numbering.of(lines.base), numbering.of(lines.ours), numbering.of(lines.theirs));
  return { lines, parts, conflicts: parts.filter(({ take }) => take === 'conflict') };
}

/**
 * The text of a merge.
 * @param decide what stands for a conflict; undefined leaves it open
 * @returns undefined as long as one is open
 */
export function mergedText(
  { lines, parts }: TextMerge,
  decide: (conflict: Part) => readonly string[] | undefined = () => undefined,
): string | undefined {
  const all: string[] = [];
  for (const part of parts) {
    const { take } = part;
    const side = take === 'same' ? 'ours' : take;
    const own = side === 'conflict' ? decide(part) : lines[side].slice(...part[side]);
    if (!own) return undefined;
    for (const line of own) all.push(line);
  }
  return all.join('');
}
