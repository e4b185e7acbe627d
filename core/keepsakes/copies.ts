import type { KeepsakeHead, KeepsakeList } from './keepsake';

/** Keepsakes of a folder's store and the copies of them elsewhere, each once. */
export interface WithCopies extends KeepsakeList {
  /** Ids of those of which a copy is all that is left. */
  readonly onlyCopied: ReadonlySet<string>;
  /** Those that have no copy, newest first. */
  readonly uncopied: readonly KeepsakeHead[];
}

/** Puts the keepsakes of a store and the copies of them together. @param kept, copies newest first */
export function withCopies(kept: KeepsakeList, copies: KeepsakeList): WithCopies {
  const [there, copied] = [kept, copies].map(({ keepsakes }) => new Set(keepsakes.map(({ id }) => id)));
  const left = copies.keepsakes.filter(({ id }) => !there!.has(id));
  return {
    keepsakes: [...kept.keepsakes, ...left].toSorted((a, b) => b.at - a.at),
    unreadable: [...kept.unreadable, ...copies.unreadable],
    onlyCopied: new Set(left.map(({ id }) => id)),
    uncopied: kept.keepsakes.filter(({ id }) => !copied!.has(id)),
  };
}
