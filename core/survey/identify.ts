import type { ContentKey } from '#core/digest';
import type { BuildLabel, Depot, DepotId } from '#core/builds';
import type { LaidFile } from '#core/manifest';
import { type FoundFile, keysByPath } from './compare';

/** What a depot's files on disk say of its build. */
export interface DepotIdentity {
  readonly depot: DepotId;
  /** The builds that fit best, all equally well, old to new; none where no file of the depot is there at all. */
  readonly builds: readonly BuildLabel[];
  /** Files of the best build that are there with the right bytes, and how many it has. */
  readonly found: number;
  readonly total: number;
}

/** The tree of each build, old to new: what its depots give when laid in order, sorted by path as `overlay` does. */
export type Trees = ReadonlyMap<BuildLabel, readonly LaidFile[]>;

function rightFiles(
  tree: readonly LaidFile[],
  onDisk: ReadonlyMap<string, ContentKey>,
): Map<DepotId, [number, number]> {
  const counts = new Map<DepotId, [number, number]>();
  for (const { depot, path, key } of tree) {
    let count = counts.get(depot);
    if (!count) counts.set(depot, (count = [0, 0]));
    if (onDisk.get(path) === key) count[0] += 1;
    count[1] += 1;
  }
  return counts;
}

/**
 * Those depots that speak of a folder in one way of cutting its game into depots. A build that a person recorded is one depot,
 * where a source has several for the same files: then both fit, and neither is mixed with the other. The way that explains most
 * counts, of equal ones that with more depots; a depot that no build has stays.
 * @param explains how much of a folder an identity explains
 */
export function inOneCut<Identity extends Pick<DepotIdentity, 'depot' | 'builds'>>(
  identities: readonly Identity[],
  trees: Trees,
  explains: (identity: Identity) => number,
): Identity[] {
  /** Depots that some build has together, each set once. */
  const cuts: Set<DepotId>[] = [];
  for (const tree of trees.values()) {
    const together = new Set<DepotId>();
    for (const { depot } of tree) together.add(depot);
    const shared = cuts.filter((cut) => [...together].some((depot) => cut.has(depot)));
    for (const cut of shared) {
      for (const depot of cut) together.add(depot);
      cuts.splice(cuts.indexOf(cut), 1);
    }
    if (together.size > 0) cuts.push(together);
  }
  if (cuts.length < 2) return [...identities];
  const scored = cuts.map((cut) => {
    const own = identities.filter(({ depot }) => cut.has(depot));
    return { cut, explained: own.reduce((sum, one) => sum + explains(one), 0) };
  });
  const [best] = scored.toSorted((a, b) => b.explained - a.explained || b.cut.size - a.cut.size);
  const others = new Set(cuts.flatMap((cut) => (cut === best!.cut ? [] : [...cut])));
  return identities.filter(({ depot }) => !others.has(depot));
}

/**
 * Tells for each depot the builds whose files lie on disk. Only copies that stay after laying are asked for: a covered
 * copy says nothing. The best build is the one with the largest share of its files; equal shares are all named.
 * @param trees from old to new
 */
export function identifyDepots(depots: readonly Depot[], trees: Trees, found: readonly FoundFile[]): DepotIdentity[] {
  const onDisk = keysByPath(found);
  const counts = [...trees].map(([build, tree]) => ({ build, right: rightFiles(tree, onDisk) }));
  const identities = depots.map(({ id }) => {
    let best: DepotIdentity = { depot: id, builds: [], found: 0, total: 0 };
    for (const { build, right } of counts) {
      const [here, total] = right.get(id) ?? [0, 0];
      if (here === 0) continue;
      // Shares are compared as products, so that equal ones are equal in whole numbers.
      const difference = best.builds.length === 0 ? 1 : here * best.total - best.found * total;
      if (difference > 0) best = { depot: id, builds: [build], found: here, total };
      else if (difference === 0) best = { ...best, builds: [...best.builds, build] };
    }
    return best;
  });
  return inOneCut(identities, trees, ({ found: files }) => files);
}

/**
 * The build that most depots are at; of two with equally many, the newer. Undefined for a folder without any depot.
 * @param labels known builds, old to new
 */
export function likeliestBuild(
  identities: readonly Pick<DepotIdentity, 'builds'>[],
  labels: Iterable<BuildLabel>,
): BuildLabel | undefined {
  let best: { build: BuildLabel; votes: number } | undefined;
  for (const build of labels) {
    const votes = identities.filter(({ builds }) => builds.includes(build)).length;
    if (votes > 0 && votes >= (best?.votes ?? 0)) best = { build, votes };
  }
  return best?.build;
}
