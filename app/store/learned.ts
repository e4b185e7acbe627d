import type { LearnedBuild } from '#core/survey';
import { db } from './db';

/** All records of builds, oldest first. */
export async function listLearned(): Promise<LearnedBuild[]> {
  return (await (await db()).getAll('learned')).toSorted((a, b) => a.at - b.at);
}

export async function addLearned(record: LearnedBuild): Promise<void> {
  await (await db()).add('learned', record);
}

export async function removeLearned(id: string): Promise<void> {
  await (await db()).delete('learned', id);
}
