import { type Build, type BuildLabel, compareLabels, type DepotIndex, type Game } from '#core/builds';

/** From old to new; of one date by their labels. */
export const byDate = (builds: readonly Build[]): Build[] =>
  builds.toSorted((a, b) => (a.date === b.date ? compareLabels(a.label, b.label) : a.date < b.date ? -1 : 1));

/**
 * Adds builds of which nothing but the label is known, such as those that only a table of mods speaks of. Each gets the date
 * of the build before it by its label, so that it stands behind that one.
 * @param before what was declared and recorded before
 * @param known all builds of the game
 * @param today ISO date, where no build is known to go by
 */
export function declareBuilds(
  before: DepotIndex | undefined,
  game: Game,
  known: readonly Build[],
  labels: readonly BuildLabel[],
  today: string,
): DepotIndex {
  const here = new Set(known.map(({ label }) => label));
  const byLabel = known.toSorted((a, b) => compareLabels(a.label, b.label));
  const dateOf = (label: BuildLabel): string => {
    const earlier = byLabel.filter((one) => compareLabels(one.label, label) < 0).at(-1);
    return (earlier ?? byLabel[0])?.date ?? today;
  };
  const added = labels.filter((label) => !here.has(label)).map((label) => ({ label, date: dateOf(label) }));
  const builds: Build[] = [...(before?.builds ?? []), ...added];
  return {
    ...{ format: 'regressum-depot-index', version: 1, game },
    branches: before?.branches ?? [],
    depots: before?.depots ?? [],
    manifests: before?.manifests ?? [],
    builds: byDate(builds),
  };
}

/** The head that each branch has by the dates of its builds. */
function withHeads(index: DepotIndex): DepotIndex {
  const branches = index.branches.flatMap((branch) => {
    const head = index.builds.filter((one) => one.branch === branch.name).at(-1);
    return head ? [{ ...branch, build: head.label }] : [];
  });
  return { ...index, branches };
}

/** What was recorded or declared, with a build at another date. @param date ISO */
export const movedBuild = (index: DepotIndex, label: string, date: string): DepotIndex =>
  withHeads({ ...index, builds: byDate(index.builds.map((one) => (one.label === label ? { ...one, date } : one))) });

/** What was recorded or declared, without some builds. */
export const withoutBuilds = (index: DepotIndex, labels: ReadonlySet<string>): DepotIndex =>
  withHeads({
    ...index,
    builds: index.builds.filter(({ label }) => !labels.has(label)),
    manifests: index.manifests.filter(({ build }) => !labels.has(build)),
  });
