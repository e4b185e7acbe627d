import type { BuildLabel, ModId } from '#core/builds';
import { type Catalogue, modById, releaseAt } from '#core/mods';

/**
 * The build that most of some releases are made for, as their authors say; of several the newest. Undefined where no author
 * says anything of these builds.
 * @param builds from old to new
 */
export function madeFor(
  catalogue: Catalogue,
  releases: ReadonlyMap<ModId, string>,
  builds: readonly BuildLabel[],
): BuildLabel | undefined {
  const counts = new Map<BuildLabel, number>();
  for (const [id, version] of releases) {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    for (const build of release?.builds ?? []) counts.set(build, (counts.get(build) ?? 0) + 1);
  }
  const most = Math.max(0, ...builds.map((build) => counts.get(build) ?? 0));
  return most === 0 ? undefined : builds.findLast((build) => counts.get(build) === most);
}
