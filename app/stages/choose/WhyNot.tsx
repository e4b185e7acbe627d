import { Button } from '@mantine/core';
import { memo } from 'react';
import type { BuildChoice } from '#core/choose';
import { failureToWire } from '#core/failure';
import { useFrame } from '~/parts/use-frame';
import { modNames } from '~/parts/mod-names';
import { FailureNotice, Section } from '~/parts/parts';
import { type ChooseView, useQuery } from '~/queries';
import { broadcast, updateInstall } from '~/store';
import styles from './choose.module.css';
import { factWords } from './fact-words';

/** Where not all must-haves run: the facts that show it, and the fewest weights to lower. */
export const WhyNot = memo(function WhyNot({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const { install } = useFrame();
  const { value: why, failure } = useQuery('whyNot', [install.id, choice.build], view.at);
  const names = modNames(view.catalogue);
  // The best set keeps as many must-haves as can be, so those that it loses are the fewest.
  const toLower = [...choice.lost.keys()].filter((id) => view.weights.get(id) === 'must');
  async function lower(): Promise<void> {
    const lowered = new Set(toLower);
    await updateInstall(install.id, (now) => ({
      ...now,
      weights: now.weights.map(([id, weight]) => [id, lowered.has(id) ? 'want' : weight] as const),
    }));
    broadcast({ type: 'changed' });
  }
  return (
    <>
      <Section>Why some must-haves do not run</Section>
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      {why && (
        <ul className={styles.facts}>
          {why.facts.map((fact, i) => (
            <li key={i}>{factWords(fact, choice.build, names)}</li>
          ))}
        </ul>
      )}
      {why?.fewest === false && <p className="quiet">A shorter explanation may exist; the search limit was reached.</p>}
      <p className="quiet">
        {choice.exact ? 'Fewest to give up' : 'Enough to give up'}:{' '}
        {toLower.map((id) => names.get(id) ?? id).join(', ')}.
      </p>
      <Button size="xs" variant="default" onClick={() => void lower()}>
        {toLower.length === 1 ? `Lower ${names.get(toLower[0]!)} to “want”` : `Lower ${toLower.length} to “want”`}
      </Button>
    </>
  );
});
