import { type FetchReport, FetchReportSchema, type ShownJob } from '~/store';

/** Reports that were read: of jobs that have ended they stay, and pages are drawn anew several times a second. */
const read = new WeakMap<object, FetchReport | undefined>();

/** What a fetch has told of itself; undefined for one that never began. */
export function fetchReportOf(job: ShownJob | undefined): FetchReport | undefined {
  const outcome = job?.outcome;
  if (typeof outcome !== 'object' || outcome === null) return undefined;
  if (!read.has(outcome)) read.set(outcome, FetchReportSchema.safeParse(outcome).data);
  return read.get(outcome);
}
