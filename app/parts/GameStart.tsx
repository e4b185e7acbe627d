import { Button, FileButton } from '@mantine/core';
import { Link } from 'react-router';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import type { FrameView } from '~/queries';
import { addTrial, broadcast, type StoredTrial } from '~/store';
import { bytesOf, forgetTried, noteLastStart, noteStart } from '~/commands';
import { counted } from './format';
import { lastStart } from './last-start';
import { useAttempt } from './use-attempt';
import { Ago, Notice, Section } from './parts';
import styles from './parts.module.css';

/** Starts the game on the folder as it lies, and shows what came of it: the only judge of whether it runs. */
export function GameStart({
  view: { install: at, service, likeliest, index, program, loaderSwitch },
  trials,
  names,
}: {
  view: Pick<FrameView, 'install' | 'service' | 'likeliest' | 'index' | 'program' | 'loaderSwitch'>;
  trials: readonly StoredTrial[];
  names: ReadonlyMap<string, string>;
}) {
  const { id: install } = at;
  const job = useLatestJob(install, 'start');
  const last = lastStart(trials);
  const { log } = index.game.rules;
  const { failure, attempt, busy } = useAttempt();
  const tell = async (outcome: 'title' | 'crash'): Promise<void> => {
    const version = outcome === 'title' && likeliest !== undefined ? { version: likeliest } : {};
    await addTrial({ install, at: Date.now(), answer: { told: true, outcome, ...version, mods: [], log: [] } });
    broadcast({ type: 'changed' });
  };
  return (
    <section aria-label="Start of the game">
      <Section>Test start</Section>
      {program && <BeforeStart program={program} />}
      {loaderSwitch === 'off' && index.game.rules.loaderSwitch && (
        <Notice>
          The loader’s switch in {index.game.rules.loaderSwitch.file} is off, as after a patch: no mod would be loaded.{' '}
          <Button size="compact-xs" onClick={() => void jobs.start('set-switch', install)}>
            Set it to {index.game.rules.loaderSwitch.on}
          </Button>
        </Notice>
      )}
      {last && (last.answer.outcome === 'crash' || last.answer.mods.some(({ ran }) => !ran)) && (
        <p>
          <Link className="link" to={`/${install}/narrow`}>
            Find what breaks it
          </Link>
        </p>
      )}
      {last ? (
        <Outcome trial={last} names={names} onRemove={() => void forgetTried(install, last.at)} />
      ) : (
        <p className="quiet">Not started yet.</p>
      )}
      {service ? (
        <Button
          size="xs"
          variant="default"
          disabled={job !== undefined && isUnderWay(job)}
          onClick={() => void jobs.start('start', install)}
        >
          Start the game
        </Button>
      ) : (
        <>
          <p className="quiet">Start the game yourself, then {log ? 'have its log read, or ' : ''}say how it went.</p>
          {failure && <Notice tone="wrong">{failure}</Notice>}
          {log && (
            <p>
              <Button mr={8} size="xs" disabled={busy} onClick={() => attempt(() => noteLastStart(install))}>
                Read {log.file}
              </Button>
              <FileButton
                onChange={(file) =>
                  file && attempt(async () => noteStart(install, await bytesOf(file), file.name, file.lastModified))
                }
                inputProps={{ 'aria-label': 'Log of the start' }}
              >
                {(props) => (
                  <Button {...props} size="xs" variant="default" disabled={busy}>
                    Choose another log
                  </Button>
                )}
              </FileButton>
            </p>
          )}
          <Button mr={8} size="xs" variant="default" onClick={() => void tell('title')}>
            It came up
          </Button>
          <Button size="xs" variant="default" onClick={() => void tell('crash')}>
            It did not
          </Button>
        </>
      )}
    </section>
  );
}

const MOST_BUILDS = 4;

/** What stands against a start before it: an altered or unknown program, a loader that does not fit it. */
function BeforeStart({ program: { path, isThere, builds, misfits } }: { program: NonNullable<FrameView['program']> }) {
  return (
    <>
      {!isThere && <Notice tone="wrong">The program {path} is missing.</Notice>}
      {isThere && builds.length === 0 && (
        <Notice>The program {path} is altered, or of an unknown build: no known build has these bytes.</Notice>
      )}
      {misfits.map(({ name, release, builds: fits }) => (
        <Notice key={name}>
          {name} {release} does not fit this program by its digest.{' '}
          {fits.length > 0 && `It fits that of ${fits.slice(-MOST_BUILDS).join(', ')}.`}
        </Notice>
      ))}
    </>
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
  if (answer.told) return <Told answer={answer} at={at} onRemove={onRemove} />;
  const loaded = answer.mods.filter(({ ran }) => ran);
  const failed = answer.mods.filter(({ ran }) => !ran);
  return (
    <>
      <Notice tone={answer.outcome === 'crash' ? 'wrong' : failed.length > 0 ? 'attention' : 'right'}>
        {answer.outcome === 'crash'
          ? 'Crashed before the title screen'
          : `Title screen${answer.version ? ` of ${answer.version}` : ''}, ${counted(loaded.length, 'mod')} loaded`}
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

/** What a person said of a start. */
function Told({ answer, at, onRemove }: { answer: StoredTrial['answer']; at: number; onRemove: () => void }) {
  return (
    <>
      <Notice tone={answer.outcome === 'crash' ? 'wrong' : 'right'}>
        {answer.outcome === 'crash'
          ? 'It did not come up'
          : `It came up${answer.version ? ` at ${answer.version}` : ''}`}
        , as you said · <Ago at={at} />
      </Notice>
      <Button mb={8} size="xs" variant="default" onClick={onRemove}>
        Discard this trial
      </Button>
    </>
  );
}
