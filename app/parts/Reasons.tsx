import type { BuildLabel } from '#core/builds';
import type { Reason } from '#core/mend';
import { reasonWords } from './evidence-words';

/** What a verdict rests on, with what its author adds. */
export function Reasons({
  reasons,
  note,
  build,
  names,
}: {
  reasons: readonly Reason[];
  note?: string | undefined;
  build: BuildLabel;
  names: ReadonlyMap<string, string>;
}) {
  return (
    <ul>
      {reasons.map((reason, i) => (
        <li key={i}>{reasonWords(reason, build, names)}</li>
      ))}
      {note && <li>{note}</li>}
    </ul>
  );
}
