import { useEffect, useState } from 'react';
import { failureFromWire, type WireFailure } from '#core/failure';
import { errorWords } from '~/parts/failure-words';
import { type FetchView, query } from '~/queries';
import { broadcast } from '~/store';

export interface Bundles {
  readonly asking: boolean;
  /** Why some of what sources have compressed is not known. */
  readonly failure: string | undefined;
}

/** Asks sources, once for each target, what they have compressed of it. The page shows what comes as it is until that is known. */
export function useBundles(install: string, { build, asksBundles }: FetchView, isIdle: boolean): Bundles {
  const of = `${install} ${build}`;
  const [asked, setAsked] = useState<{ readonly of: string; readonly failure?: WireFailure | undefined }>();
  const asks = isIdle && asksBundles && asked?.of !== of;
  useEffect(() => {
    if (!asks) return;
    let wanted = true;
    void query('learnBundles', install).then(
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
