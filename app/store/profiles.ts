import type { Install } from './records';

/*
 * What a person wants of an install is a profile's: there may be several later, of which one counts. The install as the rest of
 * the program knows it has the one that counts in it.
 */

/** What the profile is called that is there without being asked for. */
export const FIRST_TITLE = 'First';

/** What is decided about an install, as opposed to what it is. */
type Decided = Pick<Install, 'weights' | 'pins' | 'evidence' | 'target'>;

export interface StoredProfile extends Decided {
  readonly install: string;
  readonly id: string;
  readonly title: string;
}

/** An install without what is its profile's. */
export type StoredInstall = Omit<Install, keyof Decided>;

interface Records<Value, Key> {
  get(key: Key): Promise<Value | undefined>;
  getAll(): Promise<Value[]>;
  getKey(key: Key): Promise<Key | undefined>;
  put(value: Value): Promise<unknown>;
}

/** Both kinds of records as a transaction has them. */
export interface InstallStores {
  readonly installs: Records<StoredInstall, string>;
  readonly profiles: Records<StoredProfile, [install: string, id: string]>;
}

export const INSTALL_STORES: ('installs' | 'profiles')[] = ['installs', 'profiles'];

/** Both stores of a transaction that has them. */
export function storesOf(transaction: { objectStore(name: 'installs' | 'profiles'): unknown }): InstallStores {
  const store = (name: 'installs' | 'profiles'): never => transaction.objectStore(name) as never;
  return { installs: store('installs'), profiles: store('profiles') };
}

/** Takes an install apart into what it is, and what its profile has decided. */
export function apart(install: Install, title = FIRST_TITLE): { install: StoredInstall; profile: StoredProfile } {
  const { weights, pins, evidence, target, ...rest } = install;
  const decided = { weights, ...(pins && { pins }), ...(evidence && { evidence }), ...(target && { target }) };
  return { install: rest, profile: { install: rest.id, id: rest.profile, title, ...decided } };
}

/** An install with the profile that counts in it, as it lies there; a damaged one may lack anything. */
export async function readWhole(
  { profiles }: Pick<InstallStores, 'profiles'>,
  install: StoredInstall | undefined,
): Promise<object | undefined> {
  if (!install) return undefined;
  const profile = install.profile === undefined ? undefined : await profiles.get([install.id, install.profile]);
  const { install: _, id: __, title: ___, ...decided } = profile ?? {};
  return { ...decided, ...install };
}

/** Puts an install down with its profile, which keeps its title. */
export async function writeWhole({ installs, profiles }: InstallStores, whole: Install): Promise<void> {
  const before = await profiles.get([whole.id, whole.profile]);
  const { install, profile } = apart(whole, before?.title);
  await Promise.all([installs.put(install), profiles.put(profile)]);
}
