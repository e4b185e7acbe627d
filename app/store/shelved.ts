import type { ModId } from '#core/builds';
import { db } from './db';
import { type Shelved, ShelvedSchema } from './records';
import { allStored } from './stored';

const ofGame = (game: string): IDBKeyRange => IDBKeyRange.bound([game], [game, []]);

/** What is known of the releases of a game that were put on the shelf: as it was told then, whatever catalogues say since. */
export async function listShelved(game: string): Promise<Shelved[]> {
  return allStored(ShelvedSchema, await (await db()).getAll('shelved', ofGame(game)), 'release on the shelf');
}

/** Which releases those are, without reading what is known of them; it differs where they do. */
export async function shelvedStamp(game: string): Promise<string> {
  return JSON.stringify(await (await db()).getAllKeys('shelved', ofGame(game)));
}

/** Puts them all down, or none. What was put down of one before stays. */
export async function putShelved(all: readonly Shelved[]): Promise<void> {
  const transaction = (await db()).transaction('shelved', 'readwrite');
  for (const one of all)
    if (!(await transaction.store.getKey([one.game, one.mod, one.version]))) await transaction.store.put(one);
  await transaction.done;
}

/** Keeps a person's words on a release of the shelf; none where they are empty. */
export async function noteShelved(game: string, mod: ModId, version: string, words: string): Promise<void> {
  const transaction = (await db()).transaction('shelved', 'readwrite');
  const one = await transaction.store.get([game, mod, version]);
  if (one) {
    const { words: _, ...rest } = one;
    await transaction.store.put({ ...rest, ...(words !== '' && { words }) });
  }
  await transaction.done;
}

export async function removeShelved(game: string, mod: ModId, version: string): Promise<void> {
  await (await db()).delete('shelved', [game, mod, version]);
}
