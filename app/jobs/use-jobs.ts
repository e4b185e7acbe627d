import { useSyncExternalStore } from 'react';
import type { JobKind } from '~/store';
import { jobs, type LiveJob } from './job-center';

const NONE: ReadonlyMap<string, LiveJob> = new Map();

/** All jobs, oldest first. */
export function useJobs(): LiveJob[] {
  const all = useSyncExternalStore(jobs.subscribe, jobs.snapshot, () => NONE);
  return [...all.values()].toSorted((a, b) => a.record.startedAt - b.record.startedAt);
}

const UNDER_WAY = new Set(['waiting', 'running', 'paused']);

export const isUnderWay = ({ record }: LiveJob): boolean => UNDER_WAY.has(record.state);

/** The newest job of one of these kinds on an install. */
export function useLatestJob(install: string, ...kinds: JobKind[]): LiveJob | undefined {
  return useJobs().findLast(({ record }) => record.install === install && kinds.includes(record.kind));
}
