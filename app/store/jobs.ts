import { db } from './db';
import { type JobRecord, JobRecordSchema } from './records';
import { allStored, storedIfThere } from './stored';

export async function putJob(job: JobRecord): Promise<void> {
  await (await db()).put('jobs', job);
}

export async function getJob(id: string): Promise<JobRecord | undefined> {
  return storedIfThere(JobRecordSchema, await (await db()).get('jobs', id), 'job');
}

/** Jobs of an install that have ended and are still remembered. */
const MOST_ENDED = 200;

/** Forgets the oldest jobs that have ended, but for the latest few hundred of each install. */
export async function pruneJobs(): Promise<void> {
  const transaction = (await db()).transaction('jobs', 'readwrite');
  const ended = new Map<string, JobRecord[]>();
  for (const job of await transaction.store.getAll()) {
    if (job.endedAt !== undefined) ended.set(job.install, [...(ended.get(job.install) ?? []), job]);
  }
  const newestFirst = [...ended.values()].map((some) => some.toSorted((a, b) => b.endedAt! - a.endedAt!));
  const old = newestFirst.flatMap((some) => some.slice(MOST_ENDED));
  await Promise.all([...old.map(({ id }) => transaction.store.delete(id)), transaction.done]);
}

/** All jobs, oldest first. */
export async function listJobs(): Promise<JobRecord[]> {
  return allStored(JobRecordSchema, await (await db()).getAll('jobs'), 'job').toSorted(
    (a, b) => a.startedAt - b.startedAt,
  );
}
