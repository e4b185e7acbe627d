import { lazy, Suspense, useMemo } from 'react';
import { useJobs } from '~/jobs';
import { bytes, count, counted, duration, exactTime } from '~/parts/format';
import { Section } from '~/parts/parts';
import { type FetchReport, FetchReportSchema, type ShownJob } from '~/store';
import styles from './fetch.module.css';

const LineChart = lazy(() => import('~/parts/LineChart'));

/** What a fetch has told of itself; undefined for one that never began. */
export const reportOf = (job: ShownJob | undefined): FetchReport | undefined =>
  FetchReportSchema.safeParse(job?.outcome).data;

/** Bytes a second over a whole fetch. */
export const meanRate = ({ fetchedBytes, milliseconds }: FetchReport): number =>
  milliseconds === 0 ? 0 : (1000 * fetchedBytes) / milliseconds;

/** How fast a fetch came, over its time. */
export function FetchCourse({ report }: { report: FetchReport }) {
  const { course } = report;
  const chart = useMemo(() => {
    const rates = course.bytes.map((some) => (1000 * some) / course.step);
    const lastAt = (course.bytes.length * course.step) / 1000;
    return {
      label: `Bytes a second over ${duration(lastAt)}, ${bytes(Math.max(0, ...rates))} a second at most`,
      labels: rates.map((_, i) => (i === 0 ? 'start' : i === rates.length - 1 ? duration(lastAt) : '')),
      lines: [{ name: 'a second', values: rates, main: true }],
      format: bytes,
      most: Math.max(1, ...rates),
    };
  }, [course]);
  if (course.bytes.length < 4) return null;
  return (
    <section aria-label="Rate" className={styles.course}>
      <Section>Rate</Section>
      <p className="quiet">
        {bytes(meanRate(report))} a second on average · {bytes(report.wireBytes)} on the wire in{' '}
        {counted(report.requests, 'request')}
      </p>
      <Suspense fallback={<div style={{ height: 130 }} />}>
        <LineChart {...chart} />
      </Suspense>
    </section>
  );
}

/** The rate of the last fetch that brought something, in bytes a second; 0 where there was none. */
export function useLastRate(install: string): number {
  const ended = useJobs().flatMap(({ record }) => {
    const isOne = record.install === install && record.kind === 'fetch' && record.endedAt !== undefined;
    const report = isOne ? reportOf(record) : undefined;
    return report && report.fetchedBytes > 0 ? [report] : [];
  });
  const last = ended.at(-1);
  return last ? meanRate(last) : 0;
}

const STATES: Partial<Record<ShownJob['state'], string>> = { failed: 'incomplete', cancelled: 'cancelled' };

/** Fetches that have ended, the newest first, with what each saved. */
export function EarlierFetches({ install }: { install: string }) {
  const ended = useJobs()
    .filter(({ record }) => record.install === install && record.kind === 'fetch' && record.endedAt !== undefined)
    .toReversed()
    .flatMap(({ record }) => {
      const report = reportOf(record);
      return report ? [{ record, report }] : [];
    });
  if (ended.length === 0) return null;
  return (
    <details className={styles.earlier}>
      <summary>
        Earlier fetches <span className="quiet">{count(ended.length)}</span>
      </summary>
      <table>
        <thead>
          <tr>
            <th scope="col">Ended</th>
            <th scope="col">Build</th>
            <th scope="col">Files</th>
            <th scope="col">On the wire</th>
            <th scope="col">Saved</th>
            <th scope="col">Time</th>
          </tr>
        </thead>
        <tbody>
          {ended.map(({ record, report }) => (
            <tr key={record.id}>
              <td>{exactTime(record.endedAt!)}</td>
              <td>
                {report.build} <span className="quiet">{STATES[record.state]}</span>
              </td>
              <td>{count(report.files)}</td>
              <td>{bytes(report.wireBytes)}</td>
              <td>{bytes(report.reusedBytes)}</td>
              <td>{duration(report.milliseconds / 1000)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet">Saved is what lay in other files on the disk and did not have to come.</p>
    </details>
  );
}
