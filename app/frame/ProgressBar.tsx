import type { JobProgress } from '~/store';
import styles from './frame.module.css';

/** By bytes where there are any, else by files; without a total it shows that something is under way. */
export function ProgressBar({ progress, label }: { progress: JobProgress; label: string }) {
  const { bytes, bytesTotal, files, filesTotal } = progress;
  const share = bytesTotal > 0 ? bytes / bytesTotal : filesTotal > 0 ? files / filesTotal : undefined;
  return (
    <div
      className={styles.progress}
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      {...(share === undefined ? {} : { 'aria-valuenow': Math.round(100 * share) })}
    >
      <div style={{ width: `${100 * Math.min(1, share ?? 0.15)}%` }} />
    </div>
  );
}
