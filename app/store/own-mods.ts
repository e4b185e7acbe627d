import type { ModId } from '#core/builds';
import { saidOfMod } from '#core/tables';
import { db } from './db';
import type { OwnMod } from './records';

/** Mods that a person brought in; they belong to no install. */
export async function listOwnMods(): Promise<OwnMod[]> {
  return (await db()).getAll('ownMods');
}

/** Puts them all down or none; what was said before of other releases of them stays. */
export async function putOwnMods(mods: readonly OwnMod[]): Promise<void> {
  const transaction = (await db()).transaction('ownMods', 'readwrite');
  for (const mod of mods) {
    const before = await transaction.store.get(mod.id);
    await transaction.store.put({ ...mod, ...saidOfMod(before, mod) });
  }
  await transaction.done;
}

export async function removeOwnMod(id: ModId): Promise<void> {
  await (await db()).delete('ownMods', id);
}
