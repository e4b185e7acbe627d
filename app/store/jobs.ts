import { db } from './db';
import type { JobRecord } from './records';

export async function putJob(job: JobRecord): Promise<void> {
  await (await db()).put('jobs', job);
}

export async function getJob(id: string): Promise<JobRecord | undefined> {
  return (await db()).get('jobs', id);
}

/** All jobs, oldest first. */
export async function listJobs(): Promise<JobRecord[]> {
  return (await (await db()).getAll('jobs')).toSorted((a, b) => a.startedAt - b.startedAt);
}
