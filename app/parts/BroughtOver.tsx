import { lazy, Suspense, useEffect, useState } from 'react';
import { forgetBroughtOver, lastBroughtOver, listen } from '~/store';

// Hardly anybody sees it, and every first page would load it.
const BroughtOverNotice = lazy(() => import('./BroughtOverNotice'));

/** Says that an older version's store was brought over, and what all of it takes of the browser's disk. */
export function BroughtOver() {
  const [told, setTold] = useState(lastBroughtOver);
  useEffect(() => listen((message) => message.type === 'brought-over' && setTold(message.told)), []);
  if (!told) return null;
  const close = (): void => {
    forgetBroughtOver();
    setTold(undefined);
  };
  return (
    <Suspense>
      <BroughtOverNotice told={told} onClose={close} />
    </Suspense>
  );
}
