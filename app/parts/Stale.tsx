import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Notice } from './parts';
import { useFrame } from './use-frame';

/**
 * Says that what was read of the folder does not count any more, and what leads on.
 * @param children what to do where it has only changed; while a change of it is unfinished, checking would not help
 */
export function Stale({ children }: { children: ReactNode }) {
  const { install, unfinished } = useFrame();
  const [first] = unfinished;
  return (
    <Notice>
      {first ? (
        <>
          A change of the folder is not finished: what was read of it does not count.{' '}
          <Link className="link" to={`/${install.id}/history?change=${first.id}`}>
            Open History
          </Link>
        </>
      ) : (
        <>The folder has changed since it was last checked. {children}</>
      )}
    </Notice>
  );
}
