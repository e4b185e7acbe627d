import { asMod, type BuildLabel } from '#core/builds';
import { Failure } from '#core/failure';
import {
  ALL_SHARED,
  knownProfile,
  ownPools,
  parseProfile,
  type ProfileFile,
  PROFILE_VERSION,
  type Sharing,
  type UnknownInProfile,
  writeProfile,
} from '#core/profiles';
import { query } from '~/queries';
import {
  broadcast,
  type Decided,
  decidedOf,
  getCatalogue,
  getGame,
  getIndex,
  getInstall,
  listProfiles,
  putProfile,
  removeProfile,
  sharingOf,
  type StoredProfile,
  type Target,
  updateProfile,
} from '~/store';

const newId = (): string => crypto.randomUUID().slice(0, 8);

/** A profile that is made: what it begins with. */
export interface NewProfile {
  readonly title: string;
  /** Undefined: the target of the profile that counts, or what lies in the folder. */
  readonly build: BuildLabel | undefined;
  readonly mods: 'as-here' | 'none';
  readonly sharing: Sharing;
  readonly startsEmpty: boolean;
}

const vanilla = (build: BuildLabel): Target => ({ build, releases: [], decidedBy: 'choice', at: Date.now() });

/** What a new profile decides. @throws Failure `store/failed` for a build that is not known */
async function decidedFor(id: string, { build, mods }: NewProfile): Promise<Decided> {
  const install = await getInstall(id);
  const { likeliest } = await query('frame', id);
  const { weights, pins, bench, insisted, order, orderRules, evidence, target, along } = install;
  const wanted = build ?? target?.build ?? likeliest;
  if (mods === 'none') return { weights: [], modFree: true, ...(wanted && { target: vanilla(wanted) }) };
  const chosen = build === undefined ? target : build === target?.build ? target : await query('decide', id, build);
  return {
    weights,
    ...(pins && { pins }),
    ...(bench && { bench }),
    ...(insisted && { insisted }),
    ...(order && { order }),
    ...(orderRules && { orderRules }),
    ...(evidence && { evidence }),
    ...(along && { along }),
    ...(chosen && { target: chosen }),
  };
}

/** Makes a profile. Nothing changes in the folder until it is switched to. @returns its id */
export async function makeProfile(install: string, wanted: NewProfile): Promise<string> {
  const { title, sharing, startsEmpty } = wanted;
  const id = newId();
  const decided = await decidedFor(install, wanted);
  await putProfile({ install, id, title, ...decided, sharing, ...(startsEmpty && { startsEmpty: true as const }) });
  broadcast({ type: 'changed' });
  return id;
}

/** @throws Failure `store/failed` where it was forgotten meanwhile */
async function profileOf(install: string, id: string): Promise<StoredProfile> {
  const profile = (await listProfiles(install)).find((one) => one.id === id);
  if (!profile) throw new Failure('store/failed', { what: 'profile', id });
  return profile;
}

/** Copies a profile with all that it decides. Saves that it has for itself are not copied. @returns the new one's id */
export async function copyProfileOf(install: string, of: string, title: string): Promise<string> {
  const id = newId();
  await putProfile({ ...(await profileOf(install, of)), id, title });
  broadcast({ type: 'changed' });
  return id;
}

export async function changeProfile(
  install: string,
  id: string,
  change: Partial<Pick<StoredProfile, 'title' | 'sharing'>>,
): Promise<void> {
  await updateProfile(install, id, (profile) => ({ ...profile, ...change }));
  broadcast({ type: 'changed' });
}

/** Forgets a profile that does not count now. Keepsakes that it was left in stay. */
export async function forgetProfileOf(install: string, id: string): Promise<void> {
  await removeProfile(install, id, ownPools(sharingOf(await profileOf(install, id))));
  broadcast({ type: 'changed' });
}

/** A profile as a text to be handed on. */
export async function profileText(
  install: string,
  id: string,
): Promise<{ readonly name: string; readonly text: string }> {
  const { game: gameId } = await getInstall(install);
  const game = await getGame(gameId);
  const profile = await profileOf(install, id);
  // What comes along is of one folder, and not for others.
  const {
    weights,
    pins,
    bench,
    insisted,
    order,
    orderRules,
    evidence,
    target,
    modFree,
    along: _,
    ...more
  } = decidedOf(profile);
  more satisfies Record<string, never>;
  const file: ProfileFile = {
    ...{ format: 'regressum-profile', version: PROFILE_VERSION, game: { id: game.id, title: game.title } },
    title: profile.title,
    weights: Object.fromEntries(weights),
    ...(pins && { pins: Object.fromEntries(pins) }),
    ...(insisted && { insisted: Object.fromEntries(insisted) }),
    ...(bench && { bench: [...bench] }),
    ...(order && { order: [...order] }),
    ...(orderRules && { orderRules: [...orderRules] }),
    ...(evidence && { evidence }),
    ...(modFree && { modFree }),
    sharing: profile.sharing ?? ALL_SHARED,
    ...(target && {
      target: {
        build: target.build,
        releases: Object.fromEntries(target.releases),
        ...(target.order && { order: [...target.order] }),
        ...(target.decision && { decision: target.decision }),
      },
    }),
  };
  return { name: `${profile.title.replace(/[^\p{L}\p{N} _-]/gu, '')}.profile.json`, text: writeProfile(file) };
}

/** A profile that was brought in, and what of it is not known here. */
export interface BroughtProfile {
  readonly id: string;
  readonly title: string;
  readonly unknown: UnknownInProfile;
  /** The title of the game that it is of, where that is another one. */
  readonly otherGame: string | undefined;
}

/** Adds a profile from its text. @throws Failure `json/*`, `profile/unknown-version`; nothing is added then */
export async function importProfile(install: string, text: string, file: string): Promise<BroughtProfile> {
  const { game } = await getInstall(install);
  const [index, catalogue] = await Promise.all([getIndex(game), getCatalogue(game)]);
  const { profile, unknown } = knownProfile(parseProfile(text, file), { index, catalogue });
  const { title, weights, pins, bench, insisted, order, orderRules, evidence, modFree, sharing, target } = profile;
  const id = newId();
  const pairsOf = <V>(record: Readonly<Record<string, V>>) =>
    Object.entries(record).map(([mod, value]) => [asMod(mod), value] as const);
  await putProfile({
    ...{ install, id, title, sharing, weights: pairsOf(weights) },
    ...(pins && { pins: pairsOf(pins) }),
    ...(insisted && { insisted: pairsOf(insisted) }),
    ...(bench && { bench }),
    ...(order && { order }),
    ...(orderRules && { orderRules }),
    ...(evidence && { evidence }),
    ...(modFree && { modFree }),
    ...(target && {
      target: {
        ...{ build: target.build, releases: pairsOf(target.releases), decidedBy: 'choice' as const, at: Date.now() },
        ...(target.order && { order: target.order }),
        ...(target.decision && { decision: target.decision }),
      },
    }),
  });
  broadcast({ type: 'changed' });
  return { id, title, unknown, otherGame: profile.game.id === game ? undefined : profile.game.title };
}
