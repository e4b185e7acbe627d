import type { ModId } from '#core/builds';
import { saidOfMod } from '#core/tables';
import { db } from './db';
import { INSTALL_STORES, readWhole, storesOf, writeWhole } from './profiles';
import { type Install, InstallSchema, type OwnMod, OwnModSchema } from './records';
import { allStored, stored } from './stored';

/** Mods of a game that a person brought in. */
export async function listOwnMods(game: string): Promise<OwnMod[]> {
  const ofGame = IDBKeyRange.bound([game], [game, []]);
  return allStored(OwnModSchema, await (await db()).getAll('gameMods', ofGame), 'mod of your own');
}

/**
 * Puts them all down or none; what was said before of other releases of them stays.
 * @param wanting an install that wants them, with how that changes it, in the same transaction
 */
export async function putOwnMods(
  mods: readonly OwnMod[],
  wanting?: { readonly install: string; readonly change: (now: Install) => Install },
): Promise<void> {
  const transaction = (await db()).transaction(['gameMods', ...INSTALL_STORES], 'readwrite');
  const own = transaction.objectStore('gameMods');
  const stores = storesOf(transaction);
  for (const mod of mods) {
    const before = await own.get([mod.game, mod.id]);
    await own.put({ ...mod, ...saidOfMod(before, mod) });
  }
  const install = wanting && (await readWhole(stores, await stores.installs.get(wanting.install)));
  if (install) await writeWhole(stores, wanting.change(stored(InstallSchema, install, 'folder')));
  await transaction.done;
}

export async function removeOwnMod(game: string, id: ModId): Promise<void> {
  await (await db()).delete('gameMods', [game, id]);
}
