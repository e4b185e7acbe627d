import { Button } from '@mantine/core';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { broadcast, removeTrial, type StoredTrial } from '~/store';
import { counted } from './format';
import { Ago, Notice, Section } from './parts';
import styles from './parts.module.css';

/** Starts the game on the folder as it lies, and shows what came of it: the only judge of whether it runs. */
export function GameStart({
  install,
  trials,
  names,
}: {
  install: string;
  trials: readonly StoredTrial[];
  names: ReadonlyMap<string, string>;
}) {
  const job = useLatestJob(install, 'start');
  const last = trials.at(-1);
  const remove = async (at: number): Promise<void> => {
    await removeTrial(install, at);
    broadcast({ type: 'changed' });
  };
  return (
    <section aria-label="Start of the game">
      <Section>Test start</Section>
      {last ? (
        <Outcome trial={last} names={names} onRemove={() => void remove(last.at)} />
      ) : (
        <p className="quiet">Not started yet.</p>
      )}
      <Button
        size="xs"
        variant="default"
        disabled={job !== undefined && isUnderWay(job)}
        onClick={() => void jobs.start('start', install)}
      >
        Start the game
      </Button>
    </section>
  );
}

function Outcome({
  trial: { answer, at },
  names,
  onRemove,
}: {
  trial: StoredTrial;
  names: ReadonlyMap<string, string>;
  onRemove: () => void;
}) {
  const loaded = answer.mods.filter(({ ran }) => ran);
  const failed = answer.mods.filter(({ ran }) => !ran);
  return (
    <>
      <Notice tone={answer.outcome === 'crash' ? 'wrong' : failed.length > 0 ? 'attention' : 'right'}>
        {answer.outcome === 'crash'
          ? 'Crashed before the title screen'
          : `Title screen of ${answer.version}, ${counted(loaded.length, 'mod')} loaded`}
        {failed.length > 0 && `, ${failed.length} not`} · <Ago at={at} />
      </Notice>
      {failed.map(({ mod, release, why }) => (
        <p key={mod}>
          <strong>{names.get(mod) ?? mod}</strong> {release}: {why}
        </p>
      ))}
      <details>
        <summary>Log and loaded mods</summary>
        <div className={styles.log} tabIndex={0} role="region" aria-label="Log of the game">
          {answer.log.map(({ level, text }) => `${level}: ${text}`).join('\n')}
          {'\n'}
          {loaded.map(({ mod, release }) => `loaded ${names.get(mod) ?? mod} ${release}`).join('\n')}
        </div>
      </details>
      <Button
        mr={8}
        size="xs"
        variant="default"
        title="It then counts neither for nor against any mod"
        onClick={onRemove}
      >
        Discard this trial
      </Button>
    </>
  );
}
