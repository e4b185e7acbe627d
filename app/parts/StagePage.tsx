import type { ReactNode } from 'react';
import styles from './StagePage.module.css';

interface StagePageProps {
  /** Names the stage for screen readers. */
  title: string;
  left?: ReactNode;
  middle: ReactNode;
  right: ReactNode;
  /** The main action and what it costs, at the foot of the right panel. */
  action?: ReactNode;
}

/** The three columns of every stage: its things, its picture, what is selected with the one main action. */
export function StagePage({ title, left, middle, right, action }: StagePageProps) {
  return (
    <main className={styles.page} aria-label={title}>
      <h1 className="unseen">{title}</h1>
      {left !== undefined && (
        <div className={styles.left} role="region" aria-label={`${title}: list`} tabIndex={0}>
          {left}
        </div>
      )}
      <div
        className={left === undefined ? styles.wide : styles.middle}
        role="region"
        aria-label={`${title}: picture`}
        tabIndex={0}
      >
        {middle}
      </div>
      <aside className={styles.right} aria-label={`${title}: details`}>
        <div className={styles.details} role="region" aria-label={`${title}: what is selected`} tabIndex={0}>
          {right}
        </div>
        {action !== undefined && <div className={styles.action}>{action}</div>}
      </aside>
    </main>
  );
}
