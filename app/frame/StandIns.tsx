import { lazy, Suspense } from 'react';
import { useAddress } from '~/parts/use-address';
import type { Install } from '~/store';

/** Loaded when it is first opened: nobody needs the outside world to look at a folder. */
const StandInsPanel = lazy(() => import('./StandInsPanel'));

export function StandIns({ install }: { install: Install }) {
  if (useAddress().get('panel') !== 'stand-ins') return null;
  return (
    <Suspense>
      <StandInsPanel install={install} />
    </Suspense>
  );
}
