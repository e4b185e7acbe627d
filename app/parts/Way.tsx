import type { ReactNode } from 'react';
import styles from './way.module.css';

/** Ways to do something, side by side. */
export function WayColumns({ children }: { children: ReactNode }) {
  return <div className={styles.columns}>{children}</div>;
}

/** One way to bring something in: what it can and cannot do, and the controls that do it. */
export function Way({
  title,
  can,
  cannot,
  children,
}: {
  title: string;
  can: ReactNode;
  cannot?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className={styles.way} aria-label={title}>
      <h2>{title}</h2>
      <div>{can}</div>
      {cannot && <div className="quiet">{cannot}</div>}
      <div className={styles.act}>{children}</div>
    </section>
  );
}
