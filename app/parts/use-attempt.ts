import { useState } from 'react';
import { errorWords } from './failure-words';

export interface Attempts {
  /** What went wrong with the last attempt, in words; undefined where nothing did. */
  readonly failure: string | undefined;
  readonly busy: boolean;
  /** Does what a person asks for, and keeps what went wrong with it in words. */
  readonly attempt: (work: () => Promise<void>) => void;
}

/** Attempts of a person on a page, one at a time. */
export function useAttempt(): Attempts {
  const [failure, setFailure] = useState<string>();
  const [busy, setBusy] = useState(false);
  const attempt = async (work: () => Promise<void>): Promise<void> => {
    setBusy(true);
    try {
      await work();
      setFailure(undefined);
    } catch (error) {
      const { what, next } = errorWords(error);
      setFailure(`${what} ${next}`);
    } finally {
      setBusy(false);
    }
  };
  return { failure, busy, attempt: (work) => void attempt(work) };
}
