import type { Pools } from '#core/profiles';
import { Failure } from '#core/failure';
import { db } from './db';
import { apart, decidedOf, INSTALL_STORES, readWhole, storesOf, writeWhole } from './profiles';
import { type FolderDecided, InstallSchema, type StoredProfile, StoredProfileSchema } from './records';
import { allStored, stored } from './stored';

/** All profiles of an install, in the order of their titles. */
export async function listProfiles(install: string): Promise<StoredProfile[]> {
  const all = await (await db()).getAll('profiles', IDBKeyRange.bound([install], [install, []]));
  return allStored(StoredProfileSchema, all, 'profile').toSorted((a, b) => a.title.localeCompare(b.title));
}

export async function putProfile(profile: StoredProfile): Promise<void> {
  await (await db()).put('profiles', profile);
}

/**
 * Takes over what was decided of an install elsewhere: of the folder, and by each profile. Profiles that are here alone stay, and so do
 * places outside the folder that a person has pointed at here, since what a browser reaches a folder by does not leave it.
 */
export async function takeOverInstall(
  id: string,
  decided: FolderDecided,
  profiles: readonly Omit<StoredProfile, 'install'>[],
): Promise<void> {
  const transaction = (await db()).transaction(INSTALL_STORES, 'readwrite');
  const { installs, profiles: own } = storesOf(transaction);
  const now = await installs.get(id);
  if (!now) throw new Failure('store/failed', { what: 'install', id });
  const withHere = <T extends { readonly name: string }>(there: readonly T[] = [], here: readonly T[] = []): T[] => [
    ...there,
    ...here.filter(({ name }) => there.every((other) => other.name !== name)),
  ];
  const elsewhere = withHere(decided.elsewhere, now.elsewhere);
  const followed = withHere(decided.followed, now.followed);
  await installs.put({
    ...{ ...now, ...decided },
    ...(elsewhere.length > 0 && { elsewhere }),
    ...(followed.length > 0 && { followed }),
  });
  for (const profile of profiles) await own.put({ ...profile, install: id });
  await transaction.done;
}

/** Changes a profile in one transaction. */
export async function updateProfile(
  install: string,
  id: string,
  change: (profile: StoredProfile) => StoredProfile,
): Promise<void> {
  const transaction = (await db()).transaction('profiles', 'readwrite');
  const profile = await transaction.store.get([install, id]);
  if (!profile) throw new Failure('store/failed', { what: 'profile', id });
  await transaction.store.put(change(profile));
  await transaction.done;
}

/** Removes a profile that does not count just now, with the pools that are its alone. */
export async function removeProfile(install: string, id: string, pools: readonly string[]): Promise<void> {
  const transaction = (await db()).transaction(INSTALL_STORES, 'readwrite');
  const installs = transaction.objectStore('installs');
  const record = await installs.get(install);
  if (record && record.profile !== id) {
    const gone = new Set(pools);
    await installs.put({ ...record, pools: (record.pools ?? []).filter(([pool]) => !gone.has(pool)) });
    await transaction.objectStore('profiles').delete([install, id]);
  }
  await transaction.done;
}

/**
 * Has another profile count, in one transaction. One that counts already stays.
 * @param pools where the player's files were left
 */
export async function countProfile(id: string, to: string, pools: (now: Pools) => Pools): Promise<void> {
  const transaction = (await db()).transaction(INSTALL_STORES, 'readwrite');
  const stores = storesOf(transaction);
  const whole = await readWhole(stores, await stores.installs.get(id));
  if (!whole) throw new Failure('store/failed', { what: 'install', id });
  const before = stored(InstallSchema, whole, 'folder');
  const next = await stores.profiles.get([id, to]);
  if (next && before.profile !== to) {
    const { install } = apart(before);
    const after = stored(InstallSchema, { ...install, profile: to, ...decidedOf(next) }, 'folder');
    await writeWhole(stores, { ...after, pools: [...pools(new Map(before.pools))] });
  }
  await transaction.done;
}
