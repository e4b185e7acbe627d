import { useEffect, useState } from 'react';
import { failureFromWire, type WireFailure } from '#core/failure';
import { errorWords } from '~/parts/failure-words';
import { type FetchView, query } from '~/queries';
import { broadcast, type StoredSession } from '~/store';

export interface SourcesAsked {
  readonly asking: boolean;
  /** Why some of what sources have compressed is not known. */
  readonly failure: string | undefined;
}

/**
 * Asks sources, once for each target and sign-in, what they have compressed of it, and whether they give parts. Until that is known the page
 * shows what comes as it is.
 */
export function useSources(
  install: string,
  { build, asksSources }: FetchView,
  session: StoredSession | undefined,
  isIdle: boolean,
): SourcesAsked {
  const of = `${install} ${build} ${session?.token}`;
  const [asked, setAsked] = useState<{ readonly of: string; readonly failure?: WireFailure | undefined }>();
  const asks = isIdle && asksSources && asked?.of !== of;
  useEffect(() => {
    if (!asks) return;
    let wanted = true;
    void query('learnSources', install).then(
      (failure) => {
        if (!wanted) return;
        setAsked({ of, failure });
        broadcast({ type: 'changed' });
      },
      // What keeps it from being known at all is told by the page itself.
      () => wanted && setAsked({ of }),
    );
    return () => void (wanted = false);
  }, [asks, install, of]);
  const failure = asked?.of === of ? asked.failure : undefined;
  return { asking: asks, failure: failure && errorWords(failureFromWire(failure)).what };
}
