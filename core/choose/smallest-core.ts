import { minimizeLoss } from './max-sat';
import { type Literal, not, Sat } from './sat';

/** What the search asks of items that contradict one another. */
export interface Contradictions<Item> {
  /** Whether these cannot all hold, undefined where that takes too long to tell. More of them can hold no better. */
  isImpossible(items: readonly Item[]): boolean | undefined;
  /** These, which can all hold, and others that can hold besides: the more, the sooner the search ends. */
  grown(items: readonly Item[]): ReadonlySet<Item>;
}

const MOST_STEPS = 200;
const MOST_CONFLICTS = 2_000;

/** The fewest items with one of each set; undefined where the search for them was stopped. */
function smallestHitting<Item>(sets: readonly (readonly Item[])[]): Item[] | undefined {
  const sat = new Sat();
  const literals = new Map<Item, Literal>();
  const literalOf = (item: Item): Literal => {
    let literal = literals.get(item);
    if (literal === undefined) literals.set(item, (literal = sat.variable(false)));
    return literal;
  };
  for (const set of sets) sat.clause(set.map(literalOf));
  const softs = [...literals.values()].map((literal) => ({ literal: not(literal), weight: 1 }));
  const { model, exact } = minimizeLoss(sat, softs, MOST_CONFLICTS);
  return exact ? [...literals].flatMap(([item, literal]) => (model![literal >> 1] ? [item] : [])) : undefined;
}

/**
 * The fewest items that cannot all hold. Whatever is left out by items that can hold, one of it at least has to be in; the
 * fewest items with one of each such set are the answer as soon as they cannot hold themselves (A. Ignatiev, A. Previti,
 * M. Liffiton, J. Marques-Silva, Smallest MUS Extraction with Minimal Hitting Set Dualization, 2015).
 * @param known items that cannot all hold: the answer where there are no fewer
 * @returns `proven` where there are no fewer; otherwise the search was stopped, and the items are those that were known
 */
export function smallestCore<Item>(
  items: readonly Item[],
  contradictions: Contradictions<Item>,
  known: readonly Item[],
): { core: readonly Item[]; proven: boolean } {
  const toHit: Item[][] = [];
  for (let step = 0; step < MOST_STEPS; step++) {
    const fewest = smallestHitting(toHit);
    if (!fewest) break;
    if (fewest.length >= known.length) return { core: known, proven: true };
    const impossible = contradictions.isImpossible(fewest);
    if (impossible === undefined) break;
    if (impossible) return { core: fewest, proven: true };
    const possible = contradictions.grown(fewest);
    toHit.push(items.filter((item) => !possible.has(item)));
  }
  return { core: known, proven: false };
}
