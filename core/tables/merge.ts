import { type Catalogue, haveSameFiles, type Mod, modById, type Release, releaseAt } from '#core/mods';

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

/** Characters of a version, at the most. */
const MOST_VERSION = 40;
const NEW_FILES = ' (new files)';

/** A mod with a release that it had once, see {@link withReleases}. */
function withRelease(known: Mod, kept: Release): Mod {
  const at = known.releases.findIndex(({ version }) => version === kept.version);
  const releases = [...known.releases];
  const now = releases[at];
  if (now === undefined) {
    const later = releases.findIndex(({ date }) => date > kept.date);
    releases.splice(later < 0 ? releases.length : later, 0, kept);
  } else if (kept.files.length === 0 || haveSameFiles(now, kept)) {
    return known;
  } else if (now.files.length === 0) {
    releases[at] = { ...now, files: kept.files };
  } else {
    const version = `${now.version.slice(0, MOST_VERSION - NEW_FILES.length)}${NEW_FILES}`;
    // It was named so before, by another one that is kept.
    if (releases.some((other) => other.version === version)) return known;
    releases.splice(at, 1, kept, { ...now, version });
  }
  return { ...known, releases };
}

/**
 * A catalogue with releases that it may have had once, on which folders rest: of those that it has now in the same way nothing
 * changes, others stand where their days have them. Where it has other files now under the same version, that goes on meaning what
 * it meant, and what is offered now stands behind it under a name of its own.
 */
export function withReleases(catalogue: Catalogue, kept: readonly Mod[]): Catalogue {
  const mods = new Map(catalogue.mods.map((mod) => [mod.id, mod]));
  for (const one of kept) {
    const known = mods.get(one.id);
    mods.set(one.id, known ? one.releases.reduce(withRelease, known) : one);
  }
  return { ...catalogue, mods: [...mods.values()] };
}

/**
 * Releases of a catalogue that another one has no longer, or with other files, each as withdrawn since a day.
 * @param day by the calendar, as in `2026-05-04`
 */
export function withdrawnReleases(before: Catalogue, now: Catalogue, day: string): Mod[] {
  return before.mods.flatMap((mod): Mod[] => {
    const left = modById(now, mod.id);
    const lost = mod.releases.filter((release) => {
      const same = left && releaseAt(left, release.version);
      return release.files.length > 0 && !(same && haveSameFiles(same, release));
    });
    const releases = lost.map((release) => ({ ...release, withdrawn: release.withdrawn ?? day }));
    return releases.length > 0 ? [{ ...mod, releases }] : [];
  });
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

/** Mods with more releases than before: what was said of one before stays. */
export function addReleases(before: readonly Mod[], more: readonly Mod[]): readonly Mod[] {
  const all = new Map(before.map((mod) => [mod.id, mod]));
  for (const mod of more) {
    const kept = all.get(mod.id);
    const versions = new Set(kept?.releases.map(({ version }) => version));
    const added = mod.releases.filter(({ version }) => !versions.has(version));
    all.set(mod.id, kept ? { ...kept, releases: [...kept.releases, ...added] } : mod);
  }
  return [...all.values()];
}
