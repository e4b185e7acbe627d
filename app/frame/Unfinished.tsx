import { Link } from 'react-router';
import { isUnderWay, useJobs } from '~/jobs';
import { changeTitle } from '~/parts/change-title';
import { Notice } from '~/parts/parts';
import type { FrameView } from '~/queries';

/** Says that the folder is between two states, on every page, whoever began the change; the way out is in History. */
export function Unfinished({ view: { install, unfinished } }: { view: FrameView }) {
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const [first] = unfinished;
  if (!first || busy) return null;
  return (
    <Notice>
      The folder is between two states: {first.entry ? `"${changeTitle(first.entry)}"` : 'a change'} was not finished.
      Nothing said of it counts until it is.{' '}
      <Link className="link" to={`/${install.id}/history?change=${first.id}`}>
        Continue it, or take it back
      </Link>
    </Notice>
  );
}
