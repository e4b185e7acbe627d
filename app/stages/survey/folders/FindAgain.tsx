import { findAgain } from '~/commands';
import { Notice } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import type { Install } from '~/store';
import styles from './folders.module.css';
import { WhereTo } from './WhereTo';

/** Tells where a folder lies now that was moved by others. */
export function FindAgain({ install }: { install: Install }) {
  const { failure, attempt } = useAttempt();
  const { kind } = install.place;
  if (kind !== 'picked' && kind !== 'served') return null;
  return (
    <details className={styles.part}>
      <summary>It lies elsewhere now</summary>
      <p className="quiet">
        Where a storefront or a hand has moved the folder: show where it lies, and all that is known of it counts there.
        Nothing is copied.
      </p>
      <WhereTo
        onOffer={(offer) =>
          attempt(async () => {
            const where = await offer;
            if (where) await findAgain(install, where);
          })
        }
        served
        picked="Choose where it lies…"
        act={(name) => `It is ${name} now`}
      />
      {failure && <Notice tone="wrong">{failure}</Notice>}
    </details>
  );
}
