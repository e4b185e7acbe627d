import { useTimeout } from '@mantine/hooks';
import { lazy, Suspense, useMemo, useState } from 'react';
import type { LayDownWay, RoomStep } from '#core/assemble';
import { bytes } from '~/parts/format';
import type { AssembleView } from '~/queries';
import styles from './assemble.module.css';

const LineChart = lazy(() => import('~/parts/LineChart'));

/** The chart's module is large: it comes when the page has been drawn. */
const SETTLED_MS = 500;

const STEPS: Record<RoomStep['after'], string> = {
  now: 'now',
  fetch: 'fetched',
  write: 'written',
  swap: 'done',
  'let-go': 'cleared',
};
export const WAY_NAMES: Record<LayDownWay, string> = {
  beside: 'Beside',
  'in-place': 'In place',
  'in-parts': 'In parts',
};
const PEAK: Record<LayDownWay, string> = {
  beside: 'the previous folder, fetched files and the new folder together',
  'in-place': 'the folder, fetched files and the files that differ together',
  'in-parts': 'the folder, fetched files and one part of the files that differ together',
};

/** Disk use over the course of laying down, for each way, against what is free; the figures stand in a table behind it. */
export function RoomChart({
  ways,
  way,
  free,
  busy,
}: {
  ways: AssembleView['ways'];
  way: LayDownWay;
  free: number | undefined;
  /** Whether a job works on the folder: then the page is left to show how that goes. */
  busy: boolean;
}) {
  const [isSettled, setSettled] = useState(false);
  useTimeout(() => setSettled(true), SETTLED_MS, { autoInvoke: true });
  const shown = ways.find((one) => one.way === way)!;
  const chart = useMemo(() => {
    const limit = free === undefined ? undefined : { name: 'disk full', value: shown.steps[0]!.bytes + free };
    return {
      label: shown.steps.map((step) => `${STEPS[step.after]}: ${bytes(step.bytes)}`).join(', '),
      labels: shown.steps.map(({ after }) => STEPS[after]),
      lines: ways.map((one) => ({
        name: WAY_NAMES[one.way],
        values: one.steps.map((step) => step.bytes),
        main: one.way === way,
      })),
      format: bytes,
      limit,
      most: Math.max(...ways.map(({ peak }) => peak)),
    };
  }, [ways, way, free, shown]);
  return (
    <>
      <div className={styles.chart}>
        <Suspense>{isSettled && !busy && <LineChart {...chart} />}</Suspense>
      </div>
      <p className="quiet">
        Peak {bytes(shown.peak)}: {PEAK[way]}.{free !== undefined && ` ${bytes(free)} free.`}
      </p>
      <details>
        <summary>As a table</summary>
        <table className={styles.room}>
          <thead>
            <tr>
              <th scope="col">After</th>
              {ways.map((one) => (
                <th key={one.way} scope="col">
                  {WAY_NAMES[one.way]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.steps.map(({ after }, i) => (
              <tr key={after}>
                <th scope="row">{STEPS[after]}</th>
                {ways.map((one) => (
                  <td key={one.way} className="mono">
                    {bytes(one.steps[i]!.bytes)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </>
  );
}
