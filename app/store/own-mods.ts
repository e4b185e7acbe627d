import type { ModId } from '#core/builds';
import { saidOfMod } from '#core/tables';
import { db } from './db';
import { type Install, type OwnMod, OwnModSchema } from './records';
import { allStored } from './stored';

/** Mods that a person brought in; they belong to no install. */
export async function listOwnMods(): Promise<OwnMod[]> {
  return allStored(OwnModSchema, await (await db()).getAll('ownMods'), 'mod of your own');
}

/**
 * Puts them all down or none; what was said before of other releases of them stays.
 * @param wanting an install that wants them, with how that changes it, in the same transaction
 */
export async function putOwnMods(
  mods: readonly OwnMod[],
  wanting?: { readonly install: string; readonly change: (now: Install) => Install },
): Promise<void> {
  const transaction = (await db()).transaction(['ownMods', 'installs'], 'readwrite');
  const [own, installs] = [transaction.objectStore('ownMods'), transaction.objectStore('installs')];
  for (const mod of mods) {
    const before = await own.get(mod.id);
    await own.put({ ...mod, ...saidOfMod(before, mod) });
  }
  const install = wanting && (await installs.get(wanting.install));
  if (install) await installs.put(wanting.change(install));
  await transaction.done;
}

export async function removeOwnMod(id: ModId): Promise<void> {
  await (await db()).delete('ownMods', id);
}
