import type { BuildChoice } from '#core/choose';
import type { Mod } from '#core/mods';
import { useFrame } from '~/frame/use-frame';
import { modNames } from '~/parts/mod-names';
import { reasonWords } from '~/parts/evidence-words';
import { Section } from '~/parts/parts';
import type { ChooseView } from '~/reckoning/views';
import { useReckoned } from '~/reckoning/use-reckoned';
import styles from './choose.module.css';
import { WhatIf } from './WhatIf';

/** What is wanted of the selected mod, and what speaks for and against each of its releases at the build. */
export function ModDetails({ mod, view, choice }: { mod: Mod; view: ChooseView; choice: BuildChoice }) {
  const { install } = useFrame();
  const names = modNames(view.catalogue);
  const { value } = useReckoned('evidence', [install.id, choice.build, mod.id], view.at);
  const chosen = choice.runs.get(mod.id);
  return (
    <>
      <Section>{mod.name}</Section>
      <p className="quiet">
        {mod.summary} By {mod.author}
        {mod.lookedAfter ? '' : ', who no longer looks after it'}.
      </p>
      <WhatIf mod={mod} weight={view.weights.get(mod.id)} />
      <h4 className="label">Evidence at {choice.build}</h4>
      <div className={styles.evidence}>
        {value?.map(({ release, note, verdict, reasons }) => (
          <details key={release} open={release === chosen || undefined}>
            <summary data-chosen={release === chosen || undefined}>
              <span className="mono">{release}</span>
              <span className={styles.verdict} data-verdict={verdict}>
                {verdict}
              </span>
            </summary>
            <ul>
              {reasons.map((reason) => (
                <li key={reason.kind}>{reasonWords(reason, choice.build, names)}</li>
              ))}
              {note && <li>{note}</li>}
            </ul>
          </details>
        ))}
      </div>
    </>
  );
}
