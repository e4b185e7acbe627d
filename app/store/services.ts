import type { DepotIndex } from '#core/builds';
import { Failure } from '#core/failure';
import { mergeMod } from '#core/tables';
import type { Manifest } from '#core/manifest';
import type { Catalogue } from '#core/mods';
import { db } from './db';
import { listOwnMods } from './own-mods';
import { type OwnMod, type StoredSession, StoredSessionSchema } from './records';
import { stored } from './stored';

/** What is kept of the services, as it was read last: large, and asked for at every step. */
const read: { index?: { at: number; value: DepotIndex }; catalogue?: { at: number; value: Catalogue } } = {};
let latest: { of: string; service: Catalogue; catalogue: Catalogue } | undefined;

/** What a service said last. The same object until it says something new; telling that reads the stamps alone. */
async function lastSaid<Name extends 'index' | 'catalogue'>(
  name: Name,
): Promise<NonNullable<(typeof read)[Name]>['value'] | undefined> {
  const database = await db();
  const stamps = await database.get('services', 'stamps');
  const known = read[name];
  if (known && stamps?.name === 'stamps' && stamps[name] === known.at) return known.value;
  const record = await database.get('services', name);
  if (record?.name === 'index') read.index = record;
  if (record?.name === 'catalogue') read.catalogue = record;
  return read[name]?.value;
}

/** @throws Failure `store/failed` when the depot service was never reached */
export async function getIndex(): Promise<DepotIndex> {
  const index = await lastSaid('index');
  if (!index) throw new Failure('store/failed', { what: 'depot index' });
  return index;
}

/** The service's mods, with what a person brought in laid over them or beside them. */
function withOwn(catalogue: Catalogue, own: readonly OwnMod[]): Catalogue {
  if (own.length === 0) return catalogue;
  const left = new Map(own.map((mod) => [mod.id, mod]));
  const known = catalogue.mods.map((mod) => {
    const mine = left.get(mod.id);
    left.delete(mod.id);
    return mine ? mergeMod(mod, mine) : mod;
  });
  return { ...catalogue, mods: [...known, ...left.values()] };
}

/**
 * All mods that are known. The same object until something is new, so that what was worked out of it counts on.
 * @throws Failure `store/failed` when the catalogue was never reached
 */
export async function getCatalogue(): Promise<Catalogue> {
  const [service, own] = await Promise.all([lastSaid('catalogue'), listOwnMods()]);
  if (!service) throw new Failure('store/failed', { what: 'mod catalogue' });
  const of = own.map(({ id, at }) => `${id} ${at}`).join();
  if (latest?.service !== service || latest.of !== of) latest = { service, of, catalogue: withOwn(service, own) };
  return latest.catalogue;
}

/** What a service said, with the SHA-256 of its text. */
export interface Said<Value> {
  readonly value: Value;
  readonly digest?: string;
}

/** The SHA-256 of what a service said last; undefined where it was never reached. */
export async function saidDigest(name: 'index' | 'catalogue'): Promise<string | undefined> {
  const record = await (await db()).get('services', name);
  return record && 'digest' in record ? record.digest : undefined;
}

/**
 * Keeps what the services said, both or neither. What is left out is as it was: it stays, and so does what was worked out
 * of it.
 */
export async function putServices(
  index: Said<DepotIndex> | undefined,
  catalogue: Said<Catalogue> | undefined,
): Promise<void> {
  const transaction = (await db()).transaction('services', 'readwrite');
  const at = Date.now();
  if (index) await transaction.store.put({ name: 'index', ...index, at });
  if (catalogue) await transaction.store.put({ name: 'catalogue', ...catalogue, at });
  const before = await transaction.store.get('stamps');
  const stamps = before?.name === 'stamps' ? before : { name: 'stamps' as const, index: 0, catalogue: 0 };
  await transaction.store.put({ ...stamps, ...(index && { index: at }), ...(catalogue && { catalogue: at }) });
  await transaction.done;
}

export async function getSession(): Promise<StoredSession | undefined> {
  const record = await (await db()).get('services', 'session');
  return record?.name === 'session' ? stored(StoredSessionSchema, record.value, 'sign-in') : undefined;
}

export async function putSession(session: StoredSession | undefined): Promise<void> {
  const database = await db();
  if (session) await database.put('services', { name: 'session', value: session, at: Date.now() });
  else await database.delete('services', 'session');
}

export async function getManifest(sha256: string): Promise<Manifest | undefined> {
  return (await db()).get('manifests', sha256);
}

export async function putManifest(sha256: string, manifest: Manifest): Promise<void> {
  await (await db()).put('manifests', manifest, sha256);
}

export async function knownManifests(): Promise<Set<string>> {
  return new Set(await (await db()).getAllKeys('manifests'));
}
