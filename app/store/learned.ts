import type { LearnedBuild } from '#core/survey';
import { db } from './db';

/** All records of builds of a game, oldest first. */
export async function listLearned(game: string): Promise<LearnedBuild[]> {
  const records = (await (await db()).getAll('learned')).filter((record) => record.game === game);
  return records.toSorted((a, b) => a.at - b.at);
}

export async function addLearned(game: string, record: LearnedBuild): Promise<void> {
  await (await db()).add('learned', { ...record, game });
}

export async function removeLearned(id: string): Promise<void> {
  await (await db()).delete('learned', id);
}
