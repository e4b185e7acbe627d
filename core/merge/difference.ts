/* What two sides did to what they were both made from, place by place, and what is decided where both changed it. */

/** What counts in a place that both sides changed. */
export type Decision = 'ours' | 'theirs' | { readonly value: string };

/** A place that at least one side changed; undefined is: not there. */
export interface Difference {
  /** Row and column of a table, section and name, keys or elements from the outermost; of lines the first of them, from 1. */
  readonly path: readonly string[];
  readonly what: 'value' | 'cell' | 'row' | 'column' | 'lines';
  readonly base: string | undefined;
  readonly ours: string | undefined;
  readonly theirs: string | undefined;
  /** Who changed it. `alike`: both, to the same. `conflict`: both, and not to the same. */
  readonly by: 'ours' | 'theirs' | 'alike' | 'conflict';
  /** Of a conflict, once it is decided. */
  readonly decision?: Decision;
}

/** @returns undefined as long as nothing is decided */
export type Decide = (conflict: Difference) => Decision | undefined;

/** Files of one kind, merged. */
export interface Merge {
  /** In the order of the places. */
  readonly differences: readonly Difference[];
  /** The text; undefined as long as a conflict is open. */
  readonly merged: string | undefined;
}

/** Gathers differences, and has conflicts decided. */
export class Differences {
  readonly all: Difference[] = [];
  isOpen = false;

  constructor(private readonly decide: Decide) {}

  /** @returns what counts there; what is ours as long as nothing is decided */
  note(difference: Omit<Difference, 'decision'>): Decision {
    const { by } = difference;
    const decision = by === 'conflict' ? this.decide(difference) : undefined;
    if (by === 'conflict' && decision === undefined) this.isOpen = true;
    this.all.push(decision === undefined ? difference : { ...difference, decision });
    return decision ?? (by === 'theirs' ? 'theirs' : 'ours');
  }
}

/** Who changed what was `base`, of values that are equal or not; undefined where nobody did. */
export function changedBy<T>(base: T, ours: T, theirs: T): Difference['by'] | undefined {
  if (ours === theirs) return ours === base ? undefined : 'alike';
  if (ours === base) return 'theirs';
  return theirs === base ? 'ours' : 'conflict';
}

/** Where both sides are alike, or one is as the base, nothing can be in conflict: the text is that of who changed it, byte for byte. */
export const unchangedSide = (base: string, ours: string, theirs: string): string | undefined =>
  base === ours || ours === theirs ? theirs : base === theirs ? ours : undefined;
