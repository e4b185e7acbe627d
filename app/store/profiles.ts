import { ALL_SHARED } from '#core/profiles';
import { type Decided, DECIDED_FIELDS, type Install, type StoredProfile } from './records';

/*
 * What a person wants of an install is a profile's: there may be several, of which one counts. The install as the rest of
 * the program knows it has the one that counts in it.
 */

/** What the profile is called that is there without being asked for. */
export const FIRST_TITLE = 'First';

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
  const fields = new Set<string>(DECIDED_FIELDS);
  const some = (isDecided: boolean): object =>
    Object.fromEntries(
      Object.entries(install).filter(([field, value]) => fields.has(field) === isDecided && value !== undefined),
    );
  const [rest, decided] = [some(false) as StoredInstall, some(true) as Decided];
  return { install: rest, profile: { install: rest.id, id: rest.profile, title, ...decided } };
}

/** What a profile has decided, without what it is. */
export function decidedOf({
  install: _,
  id: __,
  title: ___,
  sharing: ____,
  startsEmpty: _____,
  ...decided
}: StoredProfile) {
  return decided;
}

/** An install without what profiles decide. */
export const bareOf = (install: Install): StoredInstall => apart(install).install;

/** What of a profile says where its files of the player's are. */
export const sharingOf = ({ id, sharing = ALL_SHARED, startsEmpty }: StoredProfile) => ({ id, sharing, startsEmpty });

/** An install with the profile that counts in it, as it lies there; a damaged one may lack anything. */
export async function readWhole(
  { profiles }: Pick<InstallStores, 'profiles'>,
  install: StoredInstall | undefined,
): Promise<object | undefined> {
  if (!install) return undefined;
  const profile = install.profile === undefined ? undefined : await profiles.get([install.id, install.profile]);
  return { ...(profile && decidedOf(profile)), ...install };
}

/** Puts an install down with its profile, which keeps its title, and what it shares. */
export async function writeWhole({ installs, profiles }: InstallStores, whole: Install): Promise<void> {
  const before = await profiles.get([whole.id, whole.profile]);
  const { install, profile } = apart(whole, before?.title);
  const { sharing, startsEmpty } = before ?? {};
  const kept = { ...(sharing && { sharing }), ...(startsEmpty && { startsEmpty }) };
  await Promise.all([installs.put(install), profiles.put({ ...profile, ...kept })]);
}
