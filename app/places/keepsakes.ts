import { Failure, isFailure } from '#core/failure';
import { type Keepsake, type WithCopies, withCopies } from '#core/keepsakes';
import type { Install } from '~/store';
import { sourceOf } from './source';
import { keeperOf, onBrowserDisk, type StoreLies, type StoreReader } from './store-of';

/* Keepsakes of an install: in the store of its folder, and copies of them in this browser. */

/** The store that keepsakes are made in, and what has copies of them; the latter undefined where they lie in this browser themselves. */
async function bothOf(install: Install): Promise<readonly [keeper: StoreReader, copies: StoreReader | undefined]> {
  const keeper = await keeperOf(install);
  return [keeper, keeper.lies === 'browser' ? undefined : onBrowserDisk(install)];
}

/**
 * All keepsakes of an install, newest first, and where they lie. Copies are told alone where the folder is gone with its store.
 * @throws Failure `folder/*`, `served/*` where the store cannot be read and there are no copies
 */
export async function keepsakesOf(install: Install): Promise<WithCopies & { readonly lies: StoreLies }> {
  const [keeper, copies] = await bothOf(install);
  const copied = (await copies?.keepsakes()) ?? NONE;
  try {
    const both = withCopies(await keeper.keepsakes(), copied);
    if (both.onlyCopied.size > 0) await assertThere(install);
    return { ...both, lies: keeper.lies };
  } catch (error) {
    if (!isFailure(error) || copied.keepsakes.length === 0) throw error;
    return { ...withCopies(NONE, copied), lies: 'browser' };
  }
}

/**
 * A folder that is away just now has no keepsakes, and has lost none.
 * @throws Failure `folder/*`, `served/*` where it cannot be listed
 */
export async function assertThere(install: Install): Promise<void> {
  await (await sourceOf(install, install.tree)).reader.list();
}

const NONE = { keepsakes: [], unreadable: [] };

/** A keepsake with its files, or the copy that is left of it; undefined where there is none of that id. */
export async function keepsakeOf(install: Install, id: string): Promise<Keepsake | undefined> {
  const [keeper, copies] = await bothOf(install);
  try {
    return (await keeper.keepsake(id)) ?? (await copies?.keepsake(id));
  } catch (error) {
    const copy = isFailure(error) ? await copies?.keepsake(id) : undefined;
    if (!copy) throw error;
    return copy;
  }
}

/** As {@link keepsakeOf}. @throws Failure `keepsake/gone`; `folder/*`, `served/*` where the folder itself is away just now */
export async function keepsakeAt(install: Install, id: string): Promise<Keepsake> {
  const keepsake = await keepsakeOf(install, id);
  if (keepsake) return keepsake;
  await assertThere(install);
  throw new Failure('keepsake/gone', { keepsake: id });
}

/** Keepsakes by id, as {@link keepsakeOf}; those that are gone are left out. */
export async function keepsakesBy(install: Install, ids: Iterable<string>): Promise<Map<string, Keepsake>> {
  const all = await Promise.all([...new Set(ids)].map(async (id) => [id, await keepsakeOf(install, id)] as const));
  return new Map(all.flatMap(([id, keepsake]) => (keepsake ? [[id, keepsake] as const] : [])));
}
