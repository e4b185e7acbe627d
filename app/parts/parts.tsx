import { type ReactNode, useEffect, useState } from 'react';
import type { Failure, WireFailure } from '#core/failure';
import { failureWords } from './failure-words';
import { ago, exactTime } from './format';
import { LookLink } from './LookLink';
import styles from './parts.module.css';
import type { Changes } from './use-address';

/** What to do first, where there is nothing to show yet. */
export function Empty({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <div className={styles.empty}>
      <h2>{title}</h2>
      <div className="quiet">{children}</div>
      {action}
    </div>
  );
}

export function Figure({ value, label, color }: { value: ReactNode; label: string; color?: string }) {
  return (
    <div className={styles.figure} style={color ? { borderColor: color } : undefined}>
      <b>{value}</b>
      <span className="quiet">{label}</span>
    </div>
  );
}

export function Figures({ children }: { children: ReactNode }) {
  return <div className={styles.figures}>{children}</div>;
}

/** Names with values, the values aligned on the right. */
export function Pairs({ rows }: { rows: readonly { name: ReactNode; value: ReactNode; color?: string }[] }) {
  return (
    <dl className={styles.pairs}>
      {rows.map(({ name, value, color }, i) => (
        <Pair key={i} name={name} value={value} color={color} />
      ))}
    </dl>
  );
}

function Pair({ name, value, color }: { name: ReactNode; value: ReactNode; color: string | undefined }) {
  return (
    <>
      <dt style={{ color }}>{name}</dt>
      <dd>{value}</dd>
    </>
  );
}

export function Section({ children }: { children: ReactNode }) {
  return <h3 className={styles.section}>{children}</h3>;
}

export function Notice({
  tone = 'attention',
  children,
}: {
  tone?: 'attention' | 'wrong' | 'right';
  children: ReactNode;
}) {
  return (
    <div className={styles.notice} data-tone={tone} role={tone === 'wrong' ? 'alert' : 'status'}>
      {children}
    </div>
  );
}

export function FailureNotice({ failure }: { failure: Failure | WireFailure }) {
  const { what, next } = failureWords(failure);
  return (
    <Notice tone="wrong">
      {what} <span className="quiet">{next}</span>
    </Notice>
  );
}

export function Buttons({ children }: { children: ReactNode }) {
  return <div className={styles.buttons}>{children}</div>;
}

/** A time as people say it, the exact one on hover. */
export function Ago({ at }: { at: number }) {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 10_000);
    return () => clearInterval(timer);
  }, []);
  return (
    <time dateTime={new Date(at).toISOString()} title={exactTime(at)}>
      {ago(Math.min(at, now), now)}
    </time>
  );
}

/** A link that changes only search parameters and keeps the others; what is looked at stays in the address. */
export function ItemLink({ changes, current, children }: { changes: Changes; current: boolean; children: ReactNode }) {
  return (
    <LookLink changes={changes} className={styles.item} aria-current={current ? 'true' : undefined} data-item>
      {children}
    </LookLink>
  );
}
