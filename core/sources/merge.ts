import { type Build, type BuildLabel, type DepotIndex, type Game, MOST_BUNDLES } from '#core/builds';
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

type Entry = DepotIndex['manifests'][number];

/** One manifest of several sources: where one fails, the others are asked for the same files. */
function withMirrors(entries: readonly Entry[]): Entry {
  const [first] = entries;
  // Another manifest of the same depot speaks of other files, and what the first source says counts.
  const same = entries.filter(({ sha256 }) => sha256 === first!.sha256);
  const [filesHref = '', ...mirrors] = new Set(
    same.flatMap((entry) => [entry.filesHref, ...(entry.mirrors ?? [])]).filter((href) => href !== ''),
  );
  const href = same.find((entry) => entry.href !== '')?.href ?? '';
  const bundles = same.flatMap((entry) => entry.bundles ?? []).slice(0, MOST_BUNDLES);
  return {
    ...{ ...first!, href, filesHref },
    ...(mirrors.length > 0 && { mirrors }),
    ...(bundles.length > 0 && { bundles }),
  };
}

function mergeManifests(lists: readonly (readonly Entry[])[]): Entry[] {
  const all = new Map<string, Entry[]>();
  for (const entry of lists.flat()) {
    const name = JSON.stringify([entry.build, entry.depot]);
    const same = all.get(name);
    if (same) same.push(entry);
    else all.set(name, [entry]);
  }
  return [...all.values()].map((entries) => (entries.length === 1 ? entries[0]! : withMirrors(entries)));
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
    manifests: mergeManifests(indexes.map((index) => index.manifests)),
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

/** An index with more manifests than before, and their builds and depots: what is said now counts. */
export function addManifests(before: DepotIndex | undefined, more: DepotIndex): DepotIndex {
  if (!before) return more;
  const add = <T>(old: readonly T[], anew: readonly T[], name: (one: T) => string): T[] => {
    const names = new Set(anew.map(name));
    return [...old.filter((one) => !names.has(name(one))), ...anew];
  };
  return {
    ...more,
    builds: add(before.builds, more.builds, ({ label }) => label),
    depots: add(before.depots, more.depots, ({ id }) => id),
    manifests: add(before.manifests, more.manifests, ({ build, depot }) => JSON.stringify([build, depot])),
  };
}
