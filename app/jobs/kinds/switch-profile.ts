import { z } from 'zod';
import type { Journalled } from '#core/changes';
import { Failure, isFailure } from '#core/failure';
import { IN_GAME, type Keepsake, type OwnFile, ownName } from '#core/keepsakes';
import { leavePools, type OwnSwitch, poolsOf, switchOwn } from '#core/profiles';
import { aroundFlags, changeSet, changesOf, inPlaceSteps, ownSteps } from '~/changes';
import { ownPlaces } from '~/places';
import { query, type SwitchPlan } from '~/queries';
import {
  countProfile,
  getGame,
  getHold,
  getInstall,
  type Install,
  listProfiles,
  sharingOf,
  type StoredProfile,
  updateInstall,
} from '~/store';
import { beginPhase, type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { fetchContents, fetchedBy } from './fetch';
import { keepCovered } from './keep-covered';
import { keepOwnBefore } from './keep-own';
import { keepsakeHere } from './kept-contents';
import { noteChange } from './note-change';
import { shelveLeaving } from './shelve';

const ParamsSchema = z.object({ profile: z.string() });

async function bothProfiles(install: Install, to: string): Promise<readonly [from: StoredProfile, to: StoredProfile]> {
  const all = await listProfiles(install.id);
  const [here, there] = [install.profile, to].map((id) => all.find((profile) => profile.id === id));
  if (!here || !there) throw new Failure('store/failed', { what: 'profile', id: to });
  return [here, there];
}

/** Keepsakes that a profile finds its files in; those that are gone are left out. */
async function keepsakesOfProfile(
  context: JobContext,
  install: Install,
  profile: StoredProfile,
): Promise<Map<string, Keepsake>> {
  const pools = new Map(install.pools);
  const used = new Map<string, Keepsake>();
  for (const id of new Set(poolsOf(sharingOf(profile)).flatMap((pool) => pools.get(pool) ?? []))) {
    try {
      used.set(id, await keepsakeHere(context, install, id));
    } catch (error) {
      if (!isFailure(error, 'keepsake/gone')) throw error;
    }
  }
  return used;
}

/** What becomes of the player's files, once all that the profile used that is left lies in a keepsake. */
async function ownChange(
  context: JobContext,
  install: Install,
  [from, to]: readonly [StoredProfile, StoredProfile],
  kept: Keepsake | undefined,
  along: readonly OwnFile[],
): Promise<OwnSwitch> {
  const pools = new Map(install.pools);
  const keepsakes = await keepsakesOfProfile(context, install, to);
  return switchOwn(
    { from: sharingOf(from), to: sharingOf(to), pools },
    kept?.files ?? [],
    new Set(along.map(ownName)),
    (id) => keepsakes.get(id),
  );
}

/** A plan of the folder without the files of the player's that change by themselves. */
function withoutOwn({ rows, found }: SwitchPlan, { put, take }: OwnSwitch): Pick<SwitchPlan, 'rows' | 'found'> {
  const own = new Set([...put, ...take].flatMap(({ place, path }) => (place === IN_GAME ? [path] : [])));
  return {
    rows: rows.filter(({ path }) => !own.has(path)),
    found: new Map([...found].filter(([path]) => !own.has(path))),
  };
}

async function plan(context: JobContext, profile: string): Promise<void> {
  const install = await getInstall(context.install);
  const both = await bothProfiles(install, profile);
  const [from, to] = both;
  if (await getHold(install.id)) throw new Failure('profile/held', { profile: to.title });
  const wanted = await query('switchPlan', install.id, profile);
  const items = wanted.toFetch;
  if (items.length > 0)
    await fetchContents(context, install, { id: fetchedBy(context.id), build: wanted.build, items });
  const kept = await keepOwnBefore(context, 'switch-profile', { also: wanted.along });
  const planned = items.length > 0 ? await query('switchPlan', install.id, profile) : wanted;
  const [missing] = planned.toFetch;
  if (missing) throw new Failure('folder/not-found', { path: missing.path, missing: planned.toFetch.length });
  const { left } = planned;
  // One that never had a target has what lies in the folder as its own from now on, to come back to.
  if (left) await updateInstall(install.id, (now) => (now.target ? now : { ...now, target: left }));
  const changes = changesOf(install);
  await shelveLeaving(context, changes, both[1].target?.releases ?? []);
  await keepCovered(context, changes, planned);
  const own = await ownChange(context, install, both, kept, planned.along);
  const places = await ownPlaces(install, (await getGame(install.game)).rules);
  const steps = await aroundFlags(changes.disk, [
    ...inPlaceSteps(context.id, withoutOwn(planned, own), await changes.disk.current()),
    ...(await ownSteps(context.id, places, own)),
  ]);
  beginPhase(context, `Switching to ${to.title}`, steps);
  const facts = {
    ...{ profile: to.title, from: from.title, build: planned.build, fromId: from.id, toId: to.id },
    ...(kept && { keepsake: kept.id }),
  };
  await changes.run(context, context.id, 'on', changeSet(context.id, 'switch-profile', facts, steps));
}

/**
 * Has the profile count that a set which switched profiles leads to, the way that it went.
 * @param keepsake what the player had just before; undefined where they had nothing
 */
export async function noteProfile(
  install: string,
  { set, way }: Journalled,
  keepsake: string | undefined,
): Promise<void> {
  const { fromId, toId } = set.facts;
  if (set.what !== 'switch-profile' || fromId === undefined || toId === undefined) return;
  const [from, to] = way === 'on' ? [fromId, toId] : [toId, fromId];
  const profile = (await listProfiles(install)).find(({ id }) => id === from);
  await countProfile(install, to, (now) =>
    profile && keepsake !== undefined ? leavePools(now, sharingOf(profile), keepsake) : now,
  );
}

/** Puts another profile in the folder as one change set that touches only what differs, its saves and settings among it. */
export const switchProfile: Kind = {
  async run(context) {
    const { profile } = readParams(context, ParamsSchema);
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else await plan(context, profile);
    const made = await changes.read(context.id);
    if (made) await noteProfile(context.install, made, made.set.facts['keepsake']);
    await noteChange(context.install, changes, context.id);
    await changes.carryOut(uncounted(context), { act: 'drop', reference: fetchedBy(context.id) });
  },
  async undo(context) {
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(context.id)) {
      await changes.run(context, context.id, 'back');
      const made = await changes.read(context.id);
      if (made) await noteProfile(context.install, made, undefined);
      await noteChange(context.install, changes, context.id);
    }
    await changes.carryOut(context, { act: 'let-go', set: context.id });
    await changes.carryOut(uncounted(context), { act: 'drop', reference: fetchedBy(context.id) });
  },
};
