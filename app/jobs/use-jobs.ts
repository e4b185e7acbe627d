import { useSyncExternalStore } from 'react';
import type { JobKind } from '~/store';
import { jobs, type LiveJob } from './job-center';

const NONE: ReadonlyMap<string, LiveJob> = new Map();

const oldestFirst = (all: ReadonlyMap<string, LiveJob>): LiveJob[] =>
  [...all.values()].toSorted((a, b) => a.record.startedAt - b.record.startedAt);

/** All jobs, oldest first. */
export function useJobs(): LiveJob[] {
  const all = useSyncExternalStore(jobs.subscribe, jobs.snapshot, () => NONE);
  return oldestFirst(all);
}

const UNDER_WAY = new Set(['waiting', 'running', 'paused']);

export const isUnderWay = ({ record }: LiveJob): boolean => UNDER_WAY.has(record.state);

const newest = (all: readonly LiveJob[], install: string, kinds: readonly JobKind[]): LiveJob | undefined =>
  all.findLast(({ record }) => record.install === install && kinds.includes(record.kind));

/** The newest job of one of these kinds on an install. */
export function useLatestJob(install: string, ...kinds: JobKind[]): LiveJob | undefined {
  return newest(useJobs(), install, kinds);
}

/** As {@link useLatestJob}, asked once. */
export const latestJob = (install: string, ...kinds: JobKind[]): LiveJob | undefined =>
  newest(oldestFirst(jobs.snapshot()), install, kinds);
