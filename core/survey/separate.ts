/** Something that tells pairs apart, at a cost. */
export interface Separator {
  readonly path: string;
  readonly cost: number;
  readonly tells: readonly number[];
}

export interface Cover {
  readonly chosen: readonly Separator[];
  /** Whether no cheaper cover exists; false where the search was broken off. */
  readonly cheapest: boolean;
}

const MAX_STEPS = 200_000;

const costOf = (chosen: readonly Separator[]): number => chosen.reduce((sum, { cost }) => sum + cost, 0);

/** The usual greedy cover: again and again what tells most open pairs for its cost; at most ln n times the cheapest. */
function greedyCover(pairs: readonly number[], separators: readonly Separator[]): Separator[] {
  const open = new Set(pairs);
  const chosen: Separator[] = [];
  while (open.size > 0) {
    let best: { separator: Separator; worth: number } | undefined;
    for (const separator of separators) {
      const told = separator.tells.filter((pair) => open.has(pair)).length;
      const worth = told / (separator.cost + 1);
      if (told > 0 && worth > (best?.worth ?? 0)) best = { separator, worth };
    }
    if (!best) break;
    chosen.push(best.separator);
    best.separator.tells.forEach((pair) => open.delete(pair));
  }
  return chosen;
}

/**
 * The cheapest set of separators that together tell all pairs: weighted set cover, by branch and bound. It branches on
 * the open pair that the fewest separators tell; whatever costs as much as the best cover so far is not followed.
 * @param pairs each of them is told by at least one separator
 */
export function cheapestCover(pairs: readonly number[], separators: readonly Separator[]): Cover {
  if (pairs.length === 0) return { chosen: [], cheapest: true };
  let best = greedyCover(pairs, separators);
  let bestCost = costOf(best);
  let steps = 0;
  const byPair = new Map(pairs.map((pair): [number, Separator[]] => [pair, []]));
  for (const separator of separators) for (const pair of separator.tells) byPair.get(pair)!.push(separator);
  for (const candidates of byPair.values()) candidates.sort((a, b) => a.cost - b.cost);
  const scarcestFirst = [...byPair].toSorted(([, a], [, b]) => a.length - b.length).map(([pair]) => pair);
  const told = new Map<number, number>();

  const search = (chosen: Separator[], cost: number): void => {
    if (++steps > MAX_STEPS) return;
    const open = scarcestFirst.find((pair) => !told.get(pair));
    if (open === undefined) {
      best = [...chosen];
      bestCost = cost;
      return;
    }
    for (const separator of byPair.get(open)!) {
      if (cost + separator.cost >= bestCost) break;
      for (const pair of separator.tells) told.set(pair, (told.get(pair) ?? 0) + 1);
      search([...chosen, separator], cost + separator.cost);
      for (const pair of separator.tells) told.set(pair, told.get(pair)! - 1);
    }
  };
  search([], 0);
  return { chosen: best, cheapest: steps <= MAX_STEPS };
}
