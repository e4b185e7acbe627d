import { Failure } from '#core/failure';
import { fetchTotals } from '#core/fetch';
import { ownName } from '#core/keepsakes';
import { modById } from '#core/mods';
import { ALL_SHARED, switchOwn } from '#core/profiles';
import { keepsakesBy } from '~/places';
import { getInstall, listProfiles, sharingOf } from '~/store';
import { installContext, installedReleases } from './install-context';
import { readOwnNow } from './keepsakes';
import { frame, switchPlan } from './stages';
import type { ProfileView, SwitchView } from './views';

/* Profiles of an install, and what a switch from one to another would do. */

export async function profilesView(installId: string): Promise<readonly ProfileView[]> {
  const install = await getInstall(installId);
  return (await listProfiles(installId)).map((profile) => ({
    ...{ id: profile.id, title: profile.title, weights: profile.weights },
    ...(profile.target && { target: profile.target }),
    ...(profile.modFree && { modFree: profile.modFree }),
    sharing: profile.sharing ?? ALL_SHARED,
    startsEmpty: profile.startsEmpty === true,
    counts: profile.id === install.profile,
  }));
}

/** @throws Failure `profile/no-target`, `job/not-checked-out` */
export async function switchView(installId: string, id: string): Promise<SwitchView> {
  const here = await installContext(installId);
  const { install, catalogue } = here;
  const profiles = await listProfiles(installId);
  const [from, to] = [install.profile, id].map((one) => profiles.find((profile) => profile.id === one));
  if (!from || !to) throw new Failure('store/failed', { what: 'profile', id });
  const { rows, found, toFetch, nowhere, along } = await switchPlan(installId, id);
  const wanted = new Map(rows.map(({ path, key }) => [path, key]));
  for (const { path, key } of toFetch) wanted.set(path, key);
  const files = { replaced: 0, added: 0, removed: [...found.keys()].filter((path) => !wanted.has(path)).length };
  for (const [path, key] of wanted) {
    const now = found.get(path);
    if (now !== key) files[now === undefined ? 'added' : 'replaced'] += 1;
  }
  const pools = new Map(install.pools);
  const [kept, read] = await Promise.all([keepsakesBy(install, pools.values()), readOwnNow(install)]);
  const now = [...read.flatMap((place) => place.files), ...along];
  const own = switchOwn(
    { from: sharingOf(from), to: sharingOf(to), pools },
    now,
    new Set(along.map(ownName)),
    (keepsake) => kept.get(keepsake),
  );
  const totals = fetchTotals(toFetch);
  const [before, after] = [installedReleases(here), new Map(to.target!.releases)];
  return {
    profile: id,
    files,
    toFetch: { files: totals.filesToFetch, bytes: totals.toFetch },
    nowhere,
    own: { put: own.put.length, taken: own.take.length },
    mods: [...new Set([...before.keys(), ...after.keys()])]
      .map((mod) => ({
        id: mod,
        name: modById(catalogue, mod)?.name ?? mod,
        here: before.get(mod),
        there: after.get(mod),
      }))
      .toSorted((a, b) => a.name.localeCompare(b.name)),
    laid: (await frame(installId)).laid,
  };
}
