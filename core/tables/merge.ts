import type { Mod } from '#core/mods';

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
