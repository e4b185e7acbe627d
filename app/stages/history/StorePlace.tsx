import { Button } from '@mantine/core';
import { canPick, pickStore, placeStore } from '~/commands';
import { Notice } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import type { Install, InstallPlace } from '~/store';
import styles from './history.module.css';

interface StorePlaceProps {
  readonly install: Install;
  readonly place: Extract<InstallPlace, { kind: 'picked' }>;
  readonly busy: boolean;
}

/** Where the store of a picked folder lies, and to have it lie elsewhere: what is kept then takes no room on the game's drive. */
export function StorePlace({ install, place, busy }: StorePlaceProps) {
  const { failure, attempt } = useAttempt();
  const elsewhere = (): void =>
    attempt(async () => {
      const to = await pickStore();
      if (to) await placeStore(install.id, to);
    });
  return (
    <div className={styles.foot}>
      <span className="label">Where it lies</span>
      <p className="quiet">
        {place.store ? `In ${place.store.name}, beside the game.` : 'In regressum-store, inside the game’s folder.'}{' '}
        Fetched contents lie on the browser disk.
      </p>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {canPick() && (
        <Button size="xs" variant="default" disabled={busy} onClick={elsewhere}>
          Keep it in another folder…
        </Button>
      )}
      {place.store && (
        <Button
          size="xs"
          variant="default"
          disabled={busy}
          onClick={() => attempt(() => placeStore(install.id, undefined))}
        >
          Move it into the game’s folder
        </Button>
      )}
    </div>
  );
}
