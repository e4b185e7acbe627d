import { Link } from 'react-router';
import { useFrame } from './use-frame';

/** That a folder is held, and the way to release it; nothing, where it is not. @param why what it is to be released for */
export function HeldFirst({ why }: { why: string }) {
  const { install, held } = useFrame();
  if (!held) return null;
  return (
    <p className="quiet">
      {held.build} is held.{' '}
      <Link className="link" to={`/${install.id}/hold`}>
        Release the hold
      </Link>{' '}
      {why}.
    </p>
  );
}
