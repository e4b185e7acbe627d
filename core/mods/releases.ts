import { compareLabels, type ModId } from '#core/builds';
import type { Catalogue, Mod, Release, Requirement } from './schema';

const byId = new WeakMap<Catalogue, ReadonlyMap<string, Mod>>();

export function modById(catalogue: Catalogue, id: string): Mod | undefined {
  let mods = byId.get(catalogue);
  if (!mods) byId.set(catalogue, (mods = new Map(catalogue.mods.map((mod) => [mod.id, mod]))));
  return mods.get(id);
}

export function releaseAt(mod: Mod, version: string): Release | undefined {
  return mod.releases.find((release) => release.version === version);
}

/** As much of a mod as its releases' order needs. */
interface WithReleases {
  readonly releases: readonly { readonly version: string }[];
}

/** Place of a release in the order from old to new, -1 where the mod has no such release. */
export function releaseOrder(mod: WithReleases, version: string): number {
  return mod.releases.findIndex((release) => release.version === version);
}

/**
 * Whether a release of a mod lies in a requirement's range, by the catalogue's order. An end that names a release which the
 * catalogue no longer has is placed by its spelling ({@link compareLabels}).
 */
export function inRange(mod: WithReleases, version: string, { from, to }: Requirement): boolean {
  const place = releaseOrder(mod, version);
  if (place < 0) return false;
  /** Below 0 where the release is older than an end, above 0 where it is newer. */
  const against = (end: string): number => {
    const at = releaseOrder(mod, end);
    return at < 0 ? compareLabels(version, end) : place - at;
  };
  return (from === undefined || against(from) >= 0) && (to === undefined || against(to) <= 0);
}

/** The range as people write it: "1.12 to 1.14", "2.0 or newer", "up to 1.14", or "any release". */
export function rangeWords({ from, to }: Requirement): string {
  if (from !== undefined && to !== undefined) return from === to ? from : `${from} to ${to}`;
  if (from !== undefined) return `${from} or newer`;
  if (to !== undefined) return `up to ${to}`;
  return 'any release';
}

/** All that a release requires, as lists of alternatives of which one has to be met. */
export function needsOf({ requires, requiresOneOf }: Release): readonly (readonly Requirement[])[] {
  return [...requires.map((need) => [need]), ...requiresOneOf];
}

/** Whether releases of two mods cannot run beside each other: it holds both ways, whichever of the two names it. */
export function inConflict(catalogue: Catalogue, a: ModId, release: Release, b: ModId, other: Release): boolean {
  const names = (from: Release, id: ModId, version: string): boolean =>
    from.conflicts.some((range) => range.mod === id && inRange(modById(catalogue, id)!, version, range));
  return names(release, b, other.version) || names(other, a, release.version);
}

/** Whether two releases have the same files at the same places. */
export function haveSameFiles(a: Pick<Release, 'files'>, b: Pick<Release, 'files'>): boolean {
  const key = ({ path, size, sha256 }: Release['files'][number]): string => JSON.stringify([path, size, sha256]);
  const files = new Set(a.files.map(key));
  return a.files.length === b.files.length && b.files.every((file) => files.has(key(file)));
}

/**
 * The catalogue without releases that were withdrawn, but for those that stay somewhere. The same object where there is none
 * to leave out; a mod of which nothing is left is left out too.
 */
export function withoutWithdrawn(catalogue: Catalogue, stays: (mod: ModId, version: string) => boolean): Catalogue {
  const isLeftOut = ({ id }: Mod, { withdrawn, version }: Release): boolean =>
    withdrawn !== undefined && !stays(id, version);
  if (!catalogue.mods.some((mod) => mod.releases.some((release) => isLeftOut(mod, release)))) return catalogue;
  const mods = catalogue.mods.map((mod) => ({
    ...mod,
    releases: mod.releases.filter((release) => !isLeftOut(mod, release)),
  }));
  return { ...catalogue, mods: mods.filter(({ releases }) => releases.length > 0) };
}

/** Those of some releases that the catalogue still has; others were withdrawn since, or forgotten. */
export function knownReleases(catalogue: Catalogue, releases: Iterable<readonly [ModId, string]>): Map<ModId, string> {
  const isKnown = ([id, version]: readonly [ModId, string]): boolean => {
    const mod = modById(catalogue, id);
    return mod !== undefined && releaseAt(mod, version) !== undefined;
  };
  return new Map([...releases].filter(isKnown));
}

/** Whether two lists of alternatives say the same in the same words. */
export function sameNeed(a: readonly Requirement[], b: readonly Requirement[]): boolean {
  return (
    a.length === b.length &&
    a.every(({ mod, from, to }, i) => mod === b[i]!.mod && from === b[i]!.from && to === b[i]!.to)
  );
}
