import type { Direction } from '#core/changes';
import { broadcast, type JobRecord, listJobs, putJob } from '~/store';
import type { JobContext } from '../job-context';
import { AT_REST } from '../rate-meter';

/** The change sets that a job has made, or was to turn. */
function setsOf({ id, params }: JobRecord): readonly string[] {
  const turned = (params as { readonly sets?: unknown } | undefined)?.sets;
  return [id, ...(Array.isArray(turned) ? turned.filter((set) => typeof set === 'string') : [])];
}

/**
 * Ends jobs that have failed over change sets which have come to an end since, by another job: gone on with, or undone, they
 * would change the folder once more.
 */
export async function endSuperseded(
  { id, install }: Pick<JobContext, 'id' | 'install'>,
  sets: readonly string[],
  way: Direction,
): Promise<void> {
  for (const job of await listJobs()) {
    if (job.id === id || job.install !== install || job.state !== 'failed') continue;
    if (!setsOf(job).some((set) => sets.includes(set))) continue;
    const { failure: _, params, ...rest } = job;
    const ended = { ...rest, state: way === 'on' ? ('done' as const) : ('cancelled' as const), endedAt: Date.now() };
    await putJob({ ...ended, params });
    broadcast({ type: 'job', job: ended, speed: AT_REST });
  }
}
