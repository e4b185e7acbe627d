import { lazy, Suspense, useMemo, useState } from 'react';
import { fetchReportOf, useJobs } from '~/jobs';
import { bytes, count, counted, duration, exactTime } from '~/parts/format';
import type { FetchReport, ShownJob } from '~/store';
import styles from './fetch.module.css';

const LineChart = lazy(() => import('~/parts/LineChart'));

/** Bytes a second over the steps in which something came: pauses do not count. */
export function meanRate({ course: { step, bytes: came } }: FetchReport): number {
  const steps = came.filter((some) => some > 0);
  return steps.length === 0 ? 0 : (1000 * steps.reduce((sum, some) => sum + some, 0)) / (steps.length * step);
}

/** How fast a fetch came, over its time. */
function CourseChart({ course }: Pick<FetchReport, 'course'>) {
  const [shown, setShown] = useState(course);
  // Drawn anew when a step has ended, not with each piece.
  if (shown.step !== course.step || shown.bytes.length !== course.bytes.length) setShown(course);
  const chart = useMemo(() => {
    const rates = shown.bytes.map((some) => (1000 * some) / shown.step);
    const lastAt = (shown.bytes.length * shown.step) / 1000;
    return {
      label: `Bytes a second over ${duration(lastAt)}, ${bytes(Math.max(0, ...rates))} a second at most`,
      labels: rates.map((_, i) => (i === 0 ? 'start' : i === rates.length - 1 ? duration(lastAt) : '')),
      lines: [{ name: 'a second', values: rates, main: true }],
      format: bytes,
      most: Math.max(1, ...rates),
    };
  }, [shown]);
  return (
    <Suspense fallback={<div style={{ height: 130 }} />}>
      <LineChart {...chart} />
    </Suspense>
  );
}

/** The rate of a fetch; its chart is drawn for who opens it. */
export function FetchCourse({ report }: { report: FetchReport }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <details aria-label="Rate" className={styles.course} onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>
        Rate <span className="quiet">{bytes(meanRate(report))} a second on average</span>
      </summary>
      <p className="quiet">
        {bytes(report.wireBytes)} on the wire in {counted(report.requests, 'request')}
      </p>
      {isOpen && <CourseChart course={report.course} />}
    </details>
  );
}

/** The rate of the last fetch that brought something, in bytes a second; 0 where there was none. */
export function useLastRate(install: string): number {
  const ended = useJobs().flatMap(({ record }) => {
    const isOne = record.install === install && record.kind === 'fetch' && record.endedAt !== undefined;
    const report = isOne ? fetchReportOf(record) : undefined;
    return report && report.fetchedBytes > 0 ? [report] : [];
  });
  const last = ended.at(-1);
  return last ? meanRate(last) : 0;
}

const STATES: Partial<Record<ShownJob['state'], string>> = { failed: 'incomplete', cancelled: 'cancelled' };

/** Fetches that have ended, the newest first, with what each saved. */
export function EarlierFetches({ install }: { install: string }) {
  const [isOpen, setOpen] = useState(false);
  const ended = useJobs()
    .filter(({ record }) => record.install === install && record.kind === 'fetch' && record.endedAt !== undefined)
    .toReversed()
    .flatMap(({ record }) => {
      const report = fetchReportOf(record);
      return report ? [{ record, report }] : [];
    });
  if (ended.length === 0) return null;
  return (
    <details className={styles.earlier} onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>
        Earlier fetches <span className="quiet">{count(ended.length)}</span>
      </summary>
      {isOpen && <EarlierTable ended={ended} />}
      <p className="quiet">Saved is what lay in other files on the disk and did not have to come.</p>
    </details>
  );
}

function EarlierTable({ ended }: { ended: readonly { record: ShownJob; report: FetchReport }[] }) {
  return (
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
  );
}
