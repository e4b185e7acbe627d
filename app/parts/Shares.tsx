import styles from './shares.module.css';

/** What becomes of something, with a texture each, so that it reads without colour. */
export type Becomes = 'same' | 'replaced' | 'comes' | 'goes' | 'unread';

/** The texture of what becomes of something, beside its words. */
export function Swatch({ of }: { of: Becomes }) {
  return <span className={styles.swatch} data-becomes={of} aria-hidden="true" />;
}

/** Shares of a whole as a band; what it shows stands in words beside it. */
export function ShareBand({ shares }: { shares: readonly { readonly of: Becomes; readonly amount: number }[] }) {
  return (
    <div className={styles.band} aria-hidden="true">
      {shares.map(({ of, amount }) => (
        <span key={of} data-becomes={of} style={{ flexGrow: Math.max(amount, 1) }} />
      ))}
    </div>
  );
}
