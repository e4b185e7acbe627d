import type { BuildLabel, DepotIndex, ModId } from '#core/builds';
import type { Mod } from '#core/mods';
import { likeliestBuild } from '#core/survey';
import { withdrawnReleases } from '#core/tables';
import { getCatalogue, getHold, getIndex, listInstalls, listProfiles, offeredIf, type Told, addRested } from '~/store';
import { identities, installContext } from './install-context';

/*
 * What lies in a folder, is held there or wanted, rests on what was known when it came there: a source may take back what it
 * said, and nothing on a disk becomes unknown by that.
 */

/** Releases and builds that folders of a game have, hold or are to have. */
interface Resting {
  readonly releases: ReadonlySet<string>;
  readonly builds: ReadonlySet<BuildLabel>;
}

const keyOf = (mod: ModId, version: string): string => JSON.stringify([mod, version]);

/** @param only one of its folders, where it is named */
async function restingIn(gameId: string, only?: string): Promise<Resting> {
  const releases = new Set<string>();
  const builds = new Set<BuildLabel>();
  for (const { id, game } of await listInstalls()) {
    if (game !== gameId || (only !== undefined && id !== only)) continue;
    const [here, hold, profiles] = await Promise.all([installContext(id), getHold(id), listProfiles(id)]);
    for (const { mod, release, alsoHere } of here.installed)
      for (const version of [release, ...alsoHere]) releases.add(keyOf(mod, version));
    const likeliest = likeliestBuild(identities(here), here.trees.keys());
    if (likeliest !== undefined) builds.add(likeliest);
    if (hold) {
      builds.add(hold.sheet.build);
      for (const { mod, release } of hold.sheet.releases) releases.add(keyOf(mod, release));
    }
    for (const { target, pins = [] } of [here.install, ...profiles]) {
      if (target) builds.add(target.build);
      for (const [mod, version] of [...pins, ...(target?.releases ?? [])]) releases.add(keyOf(mod, version));
    }
  }
  return { releases, builds };
}

/** What an index has of some builds that another one has not; nobody offers their files any more. */
function lostBuilds(before: DepotIndex, now: DepotIndex, builds: ReadonlySet<BuildLabel>): DepotIndex | undefined {
  const there = new Set(now.manifests.map(({ build, depot }) => JSON.stringify([build, depot])));
  const manifests = before.manifests
    .filter(({ build, depot }) => builds.has(build) && !there.has(JSON.stringify([build, depot])))
    .map(({ build, depot, sha256, files, bytes }) => ({ build, depot, sha256, files, bytes, href: '', filesHref: '' }));
  const isNamed = new Set(manifests.map(({ build }) => build));
  const ofDepots = new Set(manifests.map(({ depot }) => depot));
  if (manifests.length === 0) return undefined;
  return {
    ...before,
    ...{ manifests, branches: [] },
    builds: before.builds.filter(({ label }) => isNamed.has(label)),
    depots: before.depots.filter(({ id }) => ofDepots.has(id)),
  };
}

/** Those of some releases that folders rest on. */
const restedOf = (mods: readonly Mod[], { releases: rests }: Resting): Mod[] =>
  mods.flatMap((mod): Mod[] => {
    const releases = mod.releases.filter(({ version }) => rests.has(keyOf(mod.id, version)));
    return releases.length > 0 ? [{ ...mod, releases }] : [];
  });

/**
 * Keeps what folders of a game rest on, before one of its sources tells something else: done again, or without the source
 * telling so after all, it changes nothing.
 * @param told undefined where the source tells nothing any more
 */
export async function keepRested(gameId: string, source: string, told: Told | undefined): Promise<void> {
  const [catalogue, index, now] = await Promise.all([
    getCatalogue(gameId),
    getIndex(gameId),
    offeredIf(gameId, source, told),
  ]);
  const withdrawn = withdrawnReleases(catalogue, now.catalogue, new Date().toISOString().slice(0, 10));
  if (withdrawn.length === 0 && !lostBuilds(index, now.index, new Set(index.builds.map(({ label }) => label)))) return;
  const resting = await restingIn(gameId);
  const mods = restedOf(withdrawn, resting);
  const builds = lostBuilds(index, now.index, resting.builds);
  if (mods.length === 0 && !builds) return;
  await addRested(gameId, mods, builds);
}

/** What is told of the releases that lie in a folder, are held there or wanted, to be kept with it. */
export async function restsOf(installId: string): Promise<Mod[]> {
  const { install, catalogue } = await installContext(installId);
  return restedOf(catalogue.mods, await restingIn(install.game, installId));
}
