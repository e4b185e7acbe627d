import type { DepotIndex } from '#core/builds';
import { Failure } from '#core/failure';
import { mergeMod } from '#core/tables';
import type { Manifest } from '#core/manifest';
import type { Catalogue } from '#core/mods';
import { db } from './db';
import { listOwnMods } from './own-mods';
import type { OwnMod } from './records';

/** @throws Failure `store/failed` when the depot service was never reached */
export async function getIndex(): Promise<DepotIndex> {
  const record = await (await db()).get('services', 'index');
  if (record?.name !== 'index') throw new Failure('store/failed', { what: 'depot index' });
  return record.value;
}

let latest: { at: number; of: string; catalogue: Catalogue } | undefined;

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
  const [record, own] = await Promise.all([(await db()).get('services', 'catalogue'), listOwnMods()]);
  if (record?.name !== 'catalogue') throw new Failure('store/failed', { what: 'mod catalogue' });
  const of = own.map(({ id, at }) => `${id} ${at}`).join();
  if (latest?.at !== record.at || latest.of !== of) {
    latest = { at: record.at, of, catalogue: withOwn(record.value, own) };
  }
  return latest.catalogue;
}

export async function putServices(index: DepotIndex, catalogue: Catalogue): Promise<void> {
  const transaction = (await db()).transaction('services', 'readwrite');
  await transaction.store.put({ name: 'index', value: index, at: Date.now() });
  await transaction.store.put({ name: 'catalogue', value: catalogue, at: Date.now() });
  await transaction.done;
}

export interface StoredSession {
  readonly token: string;
  readonly account: string;
  readonly branches: string[];
}

export async function getSession(): Promise<StoredSession | undefined> {
  const record = await (await db()).get('services', 'session');
  return record?.name === 'session' ? record.value : undefined;
}

/** Keeps the token of a sign-in, never the passphrase. */
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
