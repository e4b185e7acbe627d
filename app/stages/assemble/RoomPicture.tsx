import type { LayDownWay, RoomStep } from '#core/assemble';
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
const IN_PLACE: typeof WORDS = { ...WORDS, swap: 'in place' };
const PEAK: Record<LayDownWay, string> = {
  beside: 'previous folder, fetched files and new folder together',
  'in-place': 'the folder, fetched files and the files that differ together',
};

/** Disk use over the course of laying down, against what is free. */
export function RoomPicture({
  steps,
  peak,
  most,
  way,
  free,
}: {
  steps: readonly RoomStep[];
  peak: number;
  /** Bytes that the picture reaches up to. */
  most: number;
  way: LayDownWay;
  free: number | undefined;
}) {
  const words = way === 'beside' ? WORDS : IN_PLACE;
  const x = (i: number): number => (WIDTH * i) / (steps.length - 1);
  const y = (n: number): number => HEIGHT - (HEIGHT * n) / (most * 1.1);
  const line = steps.map(({ bytes: n }, i) => `${x(i)},${y(n)}`).join(' ');
  return (
    <>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        role="img"
        aria-label={steps.map((s) => `${words[s.after]}: ${bytes(s.bytes)}`).join(', ')}
      >
        <polygon points={`0,${HEIGHT} ${line} ${WIDTH},${HEIGHT}`} className={styles.area} />
        <polyline points={line} className={styles.use} />
      </svg>
      <div className={styles.steps}>
        {steps.map(({ after }) => (
          <span key={after}>{words[after]}</span>
        ))}
      </div>
      <p className="quiet">
        Peak {bytes(peak)}: {PEAK[way]}.{free !== undefined && ` ${bytes(free)} free.`}
      </p>
    </>
  );
}
