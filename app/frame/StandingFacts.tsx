import { Link } from 'react-router';
import type { Visit } from '~/commands';
import type { FrameView } from '~/queries';
import { STAGES } from './stages';
import { standingOf } from './standing';

/** Where things stand, as a list with the way to each. */
export default function StandingFacts({ view, before }: { view: FrameView; before: Visit | undefined }) {
  return (
    <ul>
      {standingOf(view, before).map(({ words, stage, tone }) => (
        <li key={words} data-tone={tone}>
          {words}{' '}
          <Link className="link" to={`/${view.install.id}/${stage}`}>
            {STAGES.find(({ id }) => id === stage)?.title ?? 'Shelf'}
          </Link>
        </li>
      ))}
    </ul>
  );
}
