import { lazy, Suspense, useEffect, useEffectEvent, useState } from 'react';
import { errorWords } from '~/parts/failure-words';
import { dropped } from '~/commands';
import type { Finding, Open } from './dropped-finding';
import styles from './frame.module.css';

/** Loaded when something is dropped for the first time. */
const DroppedDialog = lazy(() => import('./DroppedDialog'));

const bringsFiles = ({ dataTransfer }: DragEvent): boolean => dataTransfer?.types.includes('Files') ?? false;

/** Takes what is dropped anywhere in the window, where no page takes it for itself. */
export function DropAnywhere({ open }: { open: Open }) {
  const [over, setOver] = useState(false);
  const [shown, setShown] = useState<{ finding: Finding | undefined; failure: string | undefined }>();

  const find = useEffectEvent(async (transfer: DataTransfer): Promise<void> => {
    const what = dropped(transfer);
    setShown({ finding: undefined, failure: undefined });
    try {
      const { findingOf } = await import('./dropped-finding');
      setShown({ finding: await findingOf(await what, open), failure: undefined });
    } catch (error) {
      const words = errorWords(error);
      setShown({ finding: undefined, failure: `${words.what} ${words.next}` });
    }
  });

  useEffect(() => {
    const stop = new AbortController();
    const on = (name: 'dragover' | 'dragleave' | 'drop', heard: (event: DragEvent) => void): void =>
      window.addEventListener(name, (event) => void (bringsFiles(event) && heard(event)), { signal: stop.signal });
    on('dragover', (event) => {
      setOver(!event.defaultPrevented);
      event.preventDefault();
    });
    // Without a target it goes to, the pointer leaves the window.
    on('dragleave', ({ relatedTarget }) => void (relatedTarget === null && setOver(false)));
    on('drop', (event) => {
      setOver(false);
      if (event.defaultPrevented) return;
      event.preventDefault();
      void find(event.dataTransfer!);
    });
    return () => stop.abort();
  }, []);

  return (
    <>
      {over && <div className={styles.dropHere}>Drop to identify</div>}
      {shown && (
        <Suspense>
          <DroppedDialog key={shown.finding?.title} {...shown} onClose={() => setShown(undefined)} />
        </Suspense>
      )}
    </>
  );
}
