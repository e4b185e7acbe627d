import { Failure } from '#core/failure';
import { db } from './db';
import { type GameRecord, GameRecordSchema, type GameSource } from './records';
import { allStored, stored } from './stored';

/** The id under which a game's own service is told of. */
export const SERVICE_SOURCE: GameSource = { kind: 'service', id: 'service' };

/** What was recorded of own folders, or declared. */
export const RECORDED_SOURCE: GameSource = { kind: 'recorded', id: 'recorded', of: 'builds' };

/** @throws Failure `store/failed`, `store/damaged` */
export async function getGame(id: string): Promise<GameRecord> {
  const game = await (await db()).get('games', id);
  if (!game) throw new Failure('store/failed', { what: 'game', id });
  return stored(GameRecordSchema, game, 'game');
}

/** All games, by title. */
export async function listGames(): Promise<GameRecord[]> {
  const games = allStored(GameRecordSchema, await (await db()).getAll('games'), 'game');
  return games.toSorted((a, b) => a.title.localeCompare(b.title));
}

/** Adds a game. @throws Failure `source/exists` where one has its id already; it stays as it is */
export async function addGame(game: Omit<GameRecord, 'addedAt' | 'changedAt'>): Promise<void> {
  const transaction = (await db()).transaction('games', 'readwrite');
  if (await transaction.store.get(game.id)) throw new Failure('source/exists', { found: game.title });
  const at = Date.now();
  await transaction.store.add({ ...game, addedAt: at, changedAt: at });
  await transaction.done;
}

/** Changes a game in one transaction. @throws Failure `store/failed` */
export async function updateGame(id: string, change: (game: GameRecord) => GameRecord): Promise<void> {
  const transaction = (await db()).transaction('games', 'readwrite');
  const game = await transaction.store.get(id);
  if (!game) throw new Failure('store/failed', { what: 'game', id });
  const now = stored(GameRecordSchema, game, 'game');
  await transaction.store.put({ ...change(now), changedAt: Math.max(Date.now(), now.changedAt + 1) });
  await transaction.done;
}

/** Removes a game with what its sources told, its own mods and recorded builds; its folders have to be gone before. */
export async function removeGame(id: string): Promise<void> {
  const transaction = (await db()).transaction(['games', 'told', 'gameMods', 'shelved', 'learned'], 'readwrite');
  const ofGame = IDBKeyRange.bound([id], [id, []]);
  await transaction.objectStore('games').delete(id);
  await transaction.objectStore('told').delete(ofGame);
  await transaction.objectStore('gameMods').delete(ofGame);
  await transaction.objectStore('shelved').delete(ofGame);
  const learned = transaction.objectStore('learned');
  for (const record of await learned.getAll()) if (record.game === id) await learned.delete(record.id);
  await transaction.done;
}
