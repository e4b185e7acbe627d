/* Files of values that have names: what one side did to each is brought into the other one's text. */

/** Values by their paths; a path is a list of names. Each text is compared as it is told, so that equal values have equal texts. */
export type Values = ReadonlyMap<string, string>;

export const pathKey = (path: readonly string[]): string => JSON.stringify(path);
export const pathOf = (key: string): string[] => JSON.parse(key) as string[];

/** What is to become of a value; undefined is none. */
export interface ValueChange {
  readonly path: readonly string[];
  readonly base: string | undefined;
  readonly ours: string | undefined;
  readonly theirs: string | undefined;
}

export interface KeyedMerge {
  /** What they changed and we did not, in their order. */
  readonly takes: readonly ValueChange[];
  /** What both changed, and not alike. */
  readonly conflicts: readonly ValueChange[];
}

/** A merge of files of one kind. */
export interface StructuredMerge {
  /** The text; undefined as long as there are conflicts. */
  readonly merged: string | undefined;
  readonly conflicts: readonly ValueChange[];
}

/** Where one side is as the base was, or both are alike, there is nothing to compare: the text is that of who changed it, byte for byte. */
export function unlessUnchanged(
  base: string,
  ours: string,
  theirs: string,
  merge: () => StructuredMerge | undefined,
): StructuredMerge | undefined {
  if (base === ours || ours === theirs) return { merged: theirs, conflicts: [] };
  if (base === theirs) return { merged: ours, conflicts: [] };
  return merge();
}

/** Compares values by their paths. */
export function mergeValues(base: Values, ours: Values, theirs: Values): KeyedMerge {
  const [takes, conflicts]: [ValueChange[], ValueChange[]] = [[], []];
  // In their order, so that what they added follows what it follows there; what they removed comes where it was.
  for (const key of new Set([...theirs.keys(), ...base.keys()])) {
    const [before, own, after] = [base.get(key), ours.get(key), theirs.get(key)];
    if (after === before || after === own) continue;
    const change = { path: pathOf(key), base: before, ours: own, theirs: after };
    (own === before ? takes : conflicts).push(change);
  }
  return { takes, conflicts };
}
