import type { Build, BuildLabel, DepotIndex, Game } from '#core/builds';
import type { Catalogue } from '#core/mods';

/** Builds of several sources as one row, from old to new: each list keeps its order, and dates decide between them. */
function mergeBuilds(lists: readonly (readonly Build[])[]): Build[] {
  const waiting = lists.map((list) => [...list]);
  const builds: Build[] = [];
  const placed = new Set<BuildLabel>();
  for (;;) {
    const heads = waiting.flatMap((list) => {
      while (list[0] && placed.has(list[0].label)) list.shift();
      return list[0] ? [{ list, build: list[0] }] : [];
    });
    if (heads.length === 0) return builds;
    // A build that another list has later on waits for what stands before it there.
    const free = heads.filter(
      ({ build }) => !waiting.some((list) => list.findIndex(({ label }) => label === build.label) > 0),
    );
    const [next] = (free.length > 0 ? free : heads).toSorted((a, b) => (a.build.date < b.build.date ? -1 : 1));
    builds.push(next!.build);
    placed.add(next!.build.label);
    next!.list.shift();
  }
}

/** Those of several lists, the first of each name. */
function firstOfEach<T>(lists: readonly (readonly T[])[], name: (one: T) => string): T[] {
  const all = new Map<string, T>();
  for (const one of lists.flat()) if (!all.has(name(one))) all.set(name(one), one);
  return [...all.values()];
}

/**
 * What all sources of a game have, as one index: where two say something of the same thing, the earlier source counts.
 * A game without a source has an index without builds.
 */
export function mergeIndexes(game: Game, indexes: readonly DepotIndex[]): DepotIndex {
  const builds = mergeBuilds(indexes.map((index) => index.builds));
  const depots = firstOfEach(
    indexes.map((index) => index.depots),
    ({ id }) => id,
  );
  return {
    format: 'regressum-depot-index',
    version: 1,
    game,
    builds,
    branches: firstOfEach(
      indexes.map((index) => index.branches),
      ({ name }) => name,
    ),
    depots: depots.toSorted((a, b) => a.order - b.order),
    manifests: firstOfEach(
      indexes.map((index) => index.manifests),
      ({ build, depot }) => JSON.stringify([build, depot]),
    ),
  };
}

/** The mods of several catalogues; of one that two have, the earlier says what it is. */
export const mergeCatalogues = (catalogues: readonly Catalogue[]): Catalogue => ({
  format: 'regressum-mod-catalogue',
  version: 1,
  mods: firstOfEach(
    catalogues.map(({ mods }) => mods),
    ({ id }) => id,
  ),
});
