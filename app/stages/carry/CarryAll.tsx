import { Button } from '@mantine/core';
import { useState } from 'react';
import type { BuildLabel } from '#core/builds';
import { type CarriedAll, carryAll } from '~/commands';
import { counted } from '~/parts/format';
import { Empty, Notice } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { CarryView } from '~/queries';
import styles from './carry.module.css';
import { CarriedMods } from './CarriedMods';

const OUTCOME_WORDS: Record<CarriedAll['came'], string> = {
  carried: 'carried',
  open: 'wants decisions of yours',
  nothing: 'has no file that can be merged',
  missing: 'has files that cannot be had',
};

/** All mods that can be carried to a build: those without a conflict at once. */
export function CarryAll({ all, to }: { all: readonly CarryView[]; to: BuildLabel }) {
  const { install } = useFrame();
  const at = useAttempt();
  const [outcomes, setOutcomes] = useState<readonly CarriedAll[]>();
  const left = all.filter(({ carried }) => carried.length === 0);
  return (
    <StagePage
      title="Carry forward"
      left={<CarriedMods all={all} current={undefined} />}
      middle={
        <Empty
          title={
            all.length === 0 ? `No mod is to be carried to ${to}` : `${counted(all.length, 'mod')} to carry to ${to}`
          }
        >
          {all.length === 0
            ? 'Mods that are made from files of the game, and have no release for the build, are listed here.'
            : 'Each is merged with the game’s files of both builds. Select one to see place by place what becomes of it.'}
        </Empty>
      }
      right={
        outcomes && (
          <ul className={styles.outcomes} aria-label="What came of it">
            {outcomes.map(({ mod, name, came, version }) => (
              <li key={mod}>
                {name} {version} {OUTCOME_WORDS[came]}
              </li>
            ))}
          </ul>
        )
      }
      action={
        <>
          {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
          <Button
            loading={at.busy}
            disabled={left.length === 0 || !left.every(({ canKeep }) => canKeep)}
            onClick={() => at.attempt(async () => setOutcomes(await carryAll(install.id, left)))}
          >
            Carry all that have no conflict
          </Button>
        </>
      }
    />
  );
}
