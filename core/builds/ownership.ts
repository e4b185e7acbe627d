import type { BuildLabel, Depot, DepotIndex, Ownership } from './schema';

function counts(depot: Depot, { language, addOns, optional }: Ownership): boolean {
  switch (depot.kind) {
    case 'core':
    case 'program':
    case 'world':
      return true;
    case 'language':
      return depot.language === language;
    case 'optional':
      return optional.includes(depot.id);
    case 'add-on':
      return addOns.includes(depot.id);
  }
}

/** The depots that belong in this person's folder, in laying order (first laid first). */
export function countingDepots(index: DepotIndex, ownership: Ownership): Depot[] {
  return index.depots.filter((depot) => counts(depot, ownership)).toSorted((a, b) => a.order - b.order);
}

export function addOnRefused(depot: Depot, ownedAddOns: readonly string[]): boolean {
  return depot.kind === 'add-on' && !ownedAddOns.includes(depot.id);
}

/** Place of a build in the order from old to new; an unknown one answers -1. */
export function buildOrder(index: DepotIndex, build: BuildLabel): number {
  return index.builds.findIndex(({ label }) => label === build);
}

/**
 * The build that a storefront leads everybody to: the newest head of a branch that needs no code; where no branch says, the
 * newest build. Undefined where there is no build.
 */
export function headBuild(index: DepotIndex): BuildLabel | undefined {
  const heads = new Set(index.branches.flatMap(({ build, needsCode }) => (needsCode ? [] : [build])));
  return (index.builds.findLast(({ label }) => heads.has(label)) ?? index.builds.at(-1))?.label;
}

/** The build that a branch points to, or undefined where there is no such branch. */
export function newestBuild(index: DepotIndex, branch: string): BuildLabel | undefined {
  return index.branches.find(({ name }) => name === branch)?.build;
}

/** What is taken to be owned before anybody says so: the game in its first language, and nothing besides. */
export const leastOwnership = ({ depots }: Pick<DepotIndex, 'depots'>): Ownership => ({
  language: depots.find(({ kind }) => kind === 'language')?.language ?? '',
  addOns: [],
  optional: [],
});
