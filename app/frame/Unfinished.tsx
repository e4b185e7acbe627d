import { Link } from 'react-router';
import { isUnderWay, useJobs } from '~/jobs';
import { changeTitle } from '~/parts/change-title';
import { Notice } from '~/parts/parts';
import type { FrameView } from '~/queries';

/** Says on every page that the folder is between two states, whoever began the change; the way out is in History. */
export default function Unfinished({ view: { install, unfinished } }: { view: FrameView }) {
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const [first] = unfinished;
  if (!first || busy) return null;
  return (
    <Notice>
      {first.entry ? (
        <>
          The folder is between two states: “{changeTitle(first.entry)}” was not finished. Until it is, nothing that is
          said of the folder counts.{' '}
          <Link className="link" to={`/${install.id}/history?change=${first.id}`}>
            Continue it, or take it back
          </Link>
        </>
      ) : (
        'The folder is between two states: a newer Regressum has not finished a change of it. Continue it there.'
      )}
    </Notice>
  );
}
