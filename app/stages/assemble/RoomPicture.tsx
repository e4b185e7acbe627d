import type { RoomStep } from '#core/assemble';
import { bytes } from '~/parts/format';
import styles from './assemble.module.css';

const WIDTH = 300;
const HEIGHT = 80;
const WORDS: Record<RoomStep['after'], string> = {
  now: 'now',
  fetch: 'fetched',
  write: 'written',
  swap: 'swapped',
  'let-go': 'old deleted',
};

/** Disk use over the course of laying down, against what is free. */
export function RoomPicture({
  steps,
  peak,
  free,
}: {
  steps: readonly RoomStep[];
  peak: number;
  free: number | undefined;
}) {
  const x = (i: number): number => (WIDTH * i) / (steps.length - 1);
  const y = (n: number): number => HEIGHT - (HEIGHT * n) / (peak * 1.1);
  const line = steps.map(({ bytes: n }, i) => `${x(i)},${y(n)}`).join(' ');
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        role="img"
        aria-label={steps.map((s) => `${WORDS[s.after]}: ${bytes(s.bytes)}`).join(', ')}
      >
        <polygon points={`0,${HEIGHT} ${line} ${WIDTH},${HEIGHT}`} className={styles.area} />
        <polyline points={line} className={styles.use} />
      </svg>
      <div className={styles.steps}>
        {steps.map(({ after }) => (
          <span key={after}>{WORDS[after]}</span>
        ))}
      </div>
      <p className="quiet">
        Peak {bytes(peak)}: previous folder, fetched files and new folder together.
        {free !== undefined && ` ${bytes(free)} free.`}
      </p>
    </>
  );
}
