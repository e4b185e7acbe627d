import type { ModId } from '#core/builds';
import type { Weight } from '#core/mods';
import { parseHoldSheet } from '#core/hold';
import type { ModTable } from '#core/tables';
import { broadcast } from '~/store/changes';
import { getInstall, updateInstall } from '~/store/installs';
import { putOwnMods, removeOwnMod } from '~/store/own-mods';
import { getCatalogue, getIndex } from '~/store/services';

/** Adds mods to those that a person wants of an install; of one that is there already the weight is changed. */
export async function wantMods(install: string, wanted: ReadonlyMap<ModId, Weight>): Promise<void> {
  await updateInstall(install, (now) => {
    const kept = now.weights.map(([id, weight]) => [id, wanted.get(id) ?? weight] as const);
    const known = new Set(kept.map(([id]) => id));
    return { ...now, weights: [...kept, ...[...wanted].filter(([id]) => !known.has(id))] };
  });
  broadcast({ type: 'changed' });
}

/**
 * Takes over a table of mods without faults: the mods for every install, the weights for this one. A mod without a weight
 * keeps the one that it has here, and is wanted where it has none.
 * @param from what it was read from
 */
export async function takeOverTable(install: string, { mods, weights }: ModTable, from: string): Promise<void> {
  const at = Date.now();
  await putOwnMods(mods.map((mod) => ({ ...mod, from, at })));
  const { weights: now } = await getInstall(install);
  const had = new Map(now);
  await wantMods(install, new Map(mods.map(({ id }) => [id, weights.get(id) ?? had.get(id) ?? 'want'])));
}

/** Forgets what was brought in of a mod; the catalogue's own stays. A mod that nobody else knows is no longer wanted. */
export async function forgetOwnMod(install: string, id: ModId): Promise<void> {
  await removeOwnMod(id);
  const isKnown = (await getCatalogue()).mods.some((mod) => mod.id === id);
  if (!isKnown) await updateInstall(install, (now) => ({ ...now, weights: now.weights.filter(([own]) => own !== id) }));
  broadcast({ type: 'changed' });
}

/**
 * Takes over only the mods and weights of a hold sheet.
 * @throws Failure `json/*` or `hold-sheet/*`; nothing is changed then
 * @returns how many mods it wants
 */
export async function wantModsOfSheet(install: string, text: string, file: string): Promise<number> {
  const sheet = parseHoldSheet(text, file, await getIndex(), await getCatalogue());
  const wanted = new Map(Object.entries(sheet.weights) as [ModId, Weight][]);
  await wantMods(install, wanted);
  return wanted.size;
}
