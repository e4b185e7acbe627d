import type { ModId } from '#core/builds';
import { db } from './db';
import type { OwnMod } from './records';

/** Mods that a person brought in; they belong to no install. */
export async function listOwnMods(): Promise<OwnMod[]> {
  return (await db()).getAll('ownMods');
}

/** Puts them all down or none. */
export async function putOwnMods(mods: readonly OwnMod[]): Promise<void> {
  const transaction = (await db()).transaction('ownMods', 'readwrite');
  for (const mod of mods) await transaction.store.put(mod);
  await transaction.done;
}

export async function removeOwnMod(id: ModId): Promise<void> {
  await (await db()).delete('ownMods', id);
}
