import { type Catalogue, type Mod, releaseAt } from '#core/mods';

/**
 * What a person said of a mod before and says now: of a release that both speak of, what is said now counts, but the files
 * stay where none are named now; the others stay, the new ones behind them.
 */
export function saidOfMod(before: Mod | undefined, now: Mod): Mod {
  if (!before) return now;
  const said = new Map(now.releases.map((release) => [release.version, release]));
  const versions = new Set(before.releases.map(({ version }) => version));
  const kept = before.releases.map((release) => {
    const { files, ...rest } = said.get(release.version) ?? release;
    return { ...rest, files: files.length > 0 ? files : release.files };
  });
  return { ...now, releases: [...kept, ...now.releases.filter(({ version }) => !versions.has(version))] };
}

/**
 * A catalogue with releases that it may have had once: those that it has now count as they are now, the others stand where their
 * days have them.
 */
export function withReleases(catalogue: Catalogue, kept: readonly Mod[]): Catalogue {
  const mods = new Map(catalogue.mods.map((mod) => [mod.id, mod]));
  for (const one of kept) {
    const known = mods.get(one.id);
    const missing = one.releases.filter(({ version }) => !known || !releaseAt(known, version));
    if (!known) mods.set(one.id, one);
    else if (missing.length > 0) {
      const releases = [...known.releases];
      for (const release of missing) {
        const later = releases.findIndex(({ date }) => date > release.date);
        releases.splice(later < 0 ? releases.length : later, 0, release);
      }
      mods.set(one.id, { ...known, releases });
    }
  }
  return { ...catalogue, mods: [...mods.values()] };
}

/**
 * What a person says of a mod, laid over what the catalogue has of it: of a release that both know, builds and
 * requirements are the person's, and the files the catalogue's. Releases that only the person knows are newer.
 */
export function mergeMod(known: Mod, own: Mod): Mod {
  const said = new Map(own.releases.map((release) => [release.version, release]));
  const both = known.releases.map((release) => {
    const mine = said.get(release.version);
    if (!mine) return release;
    const { builds, requires, requiresOneOf, optional, conflicts } = mine;
    return { ...release, builds, brokenOn: [], requires, requiresOneOf, optional, conflicts };
  });
  const versions = new Set(known.releases.map(({ version }) => version));
  return { ...known, releases: [...both, ...own.releases.filter(({ version }) => !versions.has(version))] };
}
