import { useEffect, useState } from 'react';
import type { WireFailure } from '#core/failure';
import { errorWords } from '~/parts/failure-words';
import { type FetchView, query } from '~/queries';
import { broadcast } from '~/store';
import { failureFromWire } from '#core/failure';

export interface Bundles {
  readonly asking: boolean;
  /** Why some of what sources have compressed is not known. */
  readonly failure: string | undefined;
}

/** Asks sources, once for each target, what they have compressed of it. The page shows what comes as it is until that is known. */
export function useBundles(install: string, { build, asksBundles }: FetchView, isIdle: boolean): Bundles {
  const [asked, setAsked] = useState<{ readonly build: string; readonly failure?: WireFailure | undefined }>();
  const asks = isIdle && asksBundles && asked?.build !== build;
  useEffect(() => {
    if (!asks) return;
    let wanted = true;
    void query('learnBundles', install).then(
      (failure) => {
        if (!wanted) return;
        setAsked({ build, failure });
        broadcast({ type: 'changed' });
      },
      // What keeps it from being known at all is told by the page itself.
      () => wanted && setAsked({ build }),
    );
    return () => void (wanted = false);
  }, [asks, install, build]);
  const failure = asked?.build === build ? asked.failure : undefined;
  return { asking: asks, failure: failure && errorWords(failureFromWire(failure)).what };
}
