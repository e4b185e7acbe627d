import type { BuildLabel } from '#core/builds';
import { modById, releaseAt } from './releases';
import type { Catalogue, Mod, Release } from './schema';

/*
 * Releases of loaders that say by digest which programs they fit. A digest counts more than a label: a hotfix may bring
 * another program under the same label, and another label the same program.
 */

/** The SHA-256 of the game's program at each build at which it is known. */
export type Programs = ReadonlyMap<BuildLabel, string>;

function byDigest(release: Release, programs: Programs): Release {
  if (!release.programs) return release;
  const fits = new Set(release.programs);
  const digested = [...programs].filter(([, sha256]) => fits.has(sha256)).map(([build]) => build);
  // Of builds whose program nobody has seen the label is all there is.
  const said = release.builds.filter((build) => !programs.has(build));
  const refused = release.builds.filter((build) => programs.has(build) && !fits.has(programs.get(build)!));
  const builds = [...programs.keys()].filter((build) => digested.includes(build));
  return {
    ...release,
    builds: [...new Set([...builds, ...said])],
    brokenOn: [...new Set([...release.brokenOn.filter((build) => !digested.includes(build)), ...refused])],
  };
}

/** The catalogue with the builds of such releases told by the programs; the same object where there are none. */
export function byPrograms(catalogue: Catalogue, programs: Programs): Catalogue {
  if (programs.size === 0) return catalogue;
  const has = (mod: Mod): boolean => mod.releases.some((release) => release.programs !== undefined);
  if (!catalogue.mods.some(has)) return catalogue;
  const mods = catalogue.mods.map((mod) =>
    has(mod) ? { ...mod, releases: mod.releases.map((release) => byDigest(release, programs)) } : mod,
  );
  return { ...catalogue, mods };
}

/** A release that does not fit a program, with the builds whose program it fits. */
export interface ProgramMisfit {
  readonly name: string;
  readonly release: string;
  readonly builds: readonly BuildLabel[];
}

/**
 * Of releases that say by digest which programs they fit, those that do not fit one.
 * @param program SHA-256; undefined where it cannot be told, as of an altered program of several pieces
 */
export function programMisfits(
  catalogue: Catalogue,
  releases: Iterable<readonly [mod: string, version: string]>,
  program: string | undefined,
): ProgramMisfit[] {
  return [...releases].flatMap(([id, version]): ProgramMisfit[] => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    if (!release?.programs || (program !== undefined && release.programs.includes(program))) return [];
    return [{ name: mod!.name, release: version, builds: release.builds }];
  });
}
