import { Button } from '@mantine/core';
import { useEffect, useState } from 'react';
import { isFailure } from '#core/failure';
import { errorWords } from '~/parts/failure-words';
import styles from './frame.module.css';

/** Says what went wrong where nothing else on the page does. */
export function UnhandledFailures() {
  const [words, setWords] = useState<string>();
  useEffect(() => {
    const tell = (error: unknown): void => {
      // What somebody called off is no failure.
      if (isFailure(error, 'job/cancelled') || (error instanceof DOMException && error.name === 'AbortError')) return;
      const { what, next } = errorWords(error);
      setWords(`${what} ${next}`);
    };
    const onRejection = ({ reason }: PromiseRejectionEvent): void => tell(reason);
    const onError = ({ error }: ErrorEvent): void => void (error && tell(error));
    window.addEventListener('unhandledrejection', onRejection);
    window.addEventListener('error', onError);
    return () => {
      window.removeEventListener('unhandledrejection', onRejection);
      window.removeEventListener('error', onError);
    };
  }, []);
  if (words === undefined) return null;
  return (
    <div className={styles.unhandled} role="alert">
      <span>{words}</span>
      <Button size="compact-xs" variant="default" onClick={() => setWords(undefined)}>
        Close
      </Button>
    </div>
  );
}
