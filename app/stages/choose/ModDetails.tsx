import type { BuildChoice } from '#core/choose';
import type { Mod } from '#core/mods';
import { failureToWire } from '#core/failure';
import { useFrame } from '~/parts/use-frame';
import { authorWords, modNames } from '~/parts/mod-names';
import { shortDay } from '~/parts/format';
import { FailureNotice, Section } from '~/parts/parts';
import { Reasons } from '~/parts/Reasons';
import { type ChooseView, useQuery } from '~/queries';
import styles from './choose.module.css';
import { lossWords } from './loss-words';
import { Replaced } from './Replaced';
import { WhatIf } from './WhatIf';

/** What is wanted of the selected mod, and what speaks for and against each of its releases at the build. */
export function ModDetails({ mod, view, choice }: { mod: Mod; view: ChooseView; choice: BuildChoice }) {
  const { install } = useFrame();
  const names = modNames(view.catalogue);
  const { value, failure } = useQuery('evidence', [install.id, choice.build, mod.id], view.at);
  const unofficial = new Map(
    mod.releases.flatMap(({ version, unofficial: from }) => (from === undefined ? [] : [[version, from] as const])),
  );
  const withdrawn = new Map(
    mod.releases.flatMap(({ version, withdrawn: since }) => (since === undefined ? [] : [[version, since] as const])),
  );
  const chosen = choice.runs.get(mod.id);
  const loss = choice.lost.get(mod.id);
  return (
    <>
      <Section>{mod.name}</Section>
      <p className="quiet">
        {mod.summary} {authorWords(mod)}
      </p>
      {loss && (
        <p>
          <strong>Lost:</strong> {lossWords(loss, choice.build, names)}
        </p>
      )}
      <WhatIf mod={mod} weight={view.weights.get(mod.id)} />
      {chosen !== undefined && <Replaced mod={mod} choice={choice} names={names} since={view.at} />}
      <h4 className="label">Evidence at {choice.build}</h4>
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      <div key={mod.id} className={styles.evidence}>
        {value?.map(({ release, note, verdict, reasons }) => (
          <details key={release} open={release === chosen || undefined}>
            <summary data-chosen={release === chosen || undefined}>
              <span className="mono">{release}</span>
              {unofficial.has(release) && <span title={`From ${unofficial.get(release)}`}> unofficial</span>}
              {withdrawn.has(release) && (
                <span title="No source offers it any more. It stays where it lies, and is proposed for no other folder.">
                  {' '}
                  withdrawn {shortDay(withdrawn.get(release)!)}
                </span>
              )}
              <span className={styles.verdict} data-verdict={verdict}>
                {verdict}
              </span>
            </summary>
            <Reasons reasons={reasons} note={note} build={choice.build} names={names} />
          </details>
        ))}
      </div>
    </>
  );
}
