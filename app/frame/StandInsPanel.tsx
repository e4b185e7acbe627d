import { Button, Checkbox, NumberInput, TextInput } from '@mantine/core';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useRevalidator } from 'react-router';
import type { PanelAction, PanelState, StorefrontAnswer } from '#core/outside';
import { isFailure } from '#core/failure';
import { jobs } from '~/jobs';
import { errorWords } from '~/parts/failure-words';
import { Buttons, Notice, Pairs } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { query } from '~/queries';
import { panelAction, panelState } from '~/remote';
import { askStorefront, changeAFile } from '~/commands';
import { broadcast, type Install } from '~/store';
import styles from './frame.module.css';

/** Why the storefront leaves the folder as it is. */
const NOTHING_WORDS: Record<Extract<StorefrontAnswer, { action: 'nothing' }>['why'], string> = {
  newest: 'Quayline finds the newest build of its branch and does nothing.',
  setting: 'Quayline keeps to the setting in its record and does not update.',
  code: 'Quayline does not open this branch: the code in its record is not the right one.',
};

const POLL_MS = 1500;

/** Faults that are told by a number; 0 turns one off. `unit` is what one of it is. */
const COUNTS = [
  { fault: 'delayMs', label: 'Delay each answer (milliseconds)', most: 10_000, unit: 1 },
  { fault: 'failEvery', label: 'Fail every nth file (0: none)', most: 1000, unit: 1 },
  { fault: 'corruptEvery', label: 'Corrupt every nth file (0: none)', most: 1000, unit: 1 },
  { fault: 'bytesPerSecond', label: 'Send at most (kB a second a file, 0: no limit)', most: 1_000_000, unit: 1000 },
  { fault: 'changeAfter', label: 'Other files after so many answers (0: never)', most: 100_000, unit: 1 },
] as const;

const PATHS = [
  { fault: 'spoilt', label: 'Always corrupt' },
  { fault: 'gone', label: 'Withdraw' },
] as const;

/** Drives the simulated outside world: the depot service, the storefront, whoever else touches the folder. */
export default function StandInsPanel({ install }: { install: Install }) {
  const address = useAddress();
  const { revalidate } = useRevalidator();
  const [state, setState] = useState<PanelState>();
  const [word, setWord] = useState<string>();

  const latest = useRef(0);
  /** Counts what was changed here: what was asked before a change tells nothing of it. */
  const changes = useRef(0);
  const underWay = useRef(0);
  /** The same as drawn: until it is over, what is shown was asked for, and not yet taken. */
  const [isBusy, setBusy] = useState(false);
  const attempt = useCallback(async (work: () => Promise<string | undefined>) => {
    const mine = ++latest.current;
    const word = await work().catch((error: unknown) => errorWords(error).what);
    // A slow one that ends late must not talk over what was asked after it.
    if (mine === latest.current) setWord(word);
  }, []);

  useEffect(() => {
    const look = (): void => {
      if (underWay.current > 0) return;
      const before = changes.current;
      panelState().then(
        (found) => before === changes.current && setState(found),
        () => setState(undefined),
      );
    };
    look();
    const timer = setInterval(look, POLL_MS);
    return () => clearInterval(timer);
  }, []);

  const act = (action: PanelAction, said: string): Promise<void> =>
    attempt(async () => {
      // Shown at once: a field that waits for the server would lose what is typed meanwhile.
      if (action.do === 'set-faults') setState((now) => now && { ...now, faults: { ...now.faults, ...action.faults } });
      if (action.do === 'ignore-setting') setState((now) => now && { ...now, ignoresSetting: action.ignores });
      const mine = ++changes.current;
      underWay.current += 1;
      setBusy(true);
      const after = await panelAction(action).finally(() => {
        underWay.current -= 1;
        setBusy(underWay.current > 0);
      });
      if (mine === changes.current) setState(after);
      if (action.do === 'release-patch') {
        await query('refreshSources', install.game);
        broadcast({ type: 'changed' });
        await revalidate();
      }
      return said;
    });

  const ask = (): Promise<void> =>
    attempt(async () => {
      const answer = await askStorefront(install.id).catch((error: unknown) => {
        if (isFailure(error, 'folder/read-only')) return 'locked' as const;
        throw error;
      });
      if (answer === 'locked') return 'Quayline wanted to update, but its record is locked: nothing was touched.';
      if (answer.action === 'nothing') {
        return NOTHING_WORDS[answer.why];
      }
      await jobs.start('storefront-update', install.id, answer);
      return `Quayline updates the folder to ${answer.build}.`;
    });

  if (!state)
    return (
      <aside className={styles.panel} aria-label="Stand-ins">
        The stand-ins are not responding.
      </aside>
    );
  const { faults } = state;
  // The made-up storefront and the others have hands on the browser disk alone.
  const reachesFolder = install.place.kind === 'browser-disk';
  const setFaults = (some: Partial<typeof faults>): void =>
    void act({ do: 'set-faults', faults: some }, 'Settings applied.');
  return (
    <aside className={styles.panel} aria-label="Stand-ins" aria-busy={isBusy}>
      <h2>Stand-ins</h2>
      <p className="quiet">The made-up outside world of this demo. Everything answers from real bytes.</p>
      {word && <Notice>{word}</Notice>}
      <h3>Account at the depot service</h3>
      <Pairs
        rows={[
          { name: 'Name', value: state.account.name },
          { name: 'Passphrase', value: state.account.passphrase },
          { name: 'Trial branch code', value: state.account.branchCode },
        ]}
      />
      <div>One-time code</div>
      <div className={styles.code} data-testid="one-time-code">
        {state.oneTimeCode ?? '–'}
      </div>
      <p className="quiet">Sent when you sign in with name and passphrase.</p>
      <Button
        size="xs"
        variant="default"
        onClick={() => void act({ do: 'forget-sessions' }, 'Everyone is signed out.')}
      >
        End all sessions
      </Button>
      <h3>Depot service</h3>
      {COUNTS.map(({ fault, label, most, unit }) => (
        <NumberInput
          key={fault}
          label={label}
          min={0}
          max={most}
          step={fault === 'delayMs' ? 50 : 1}
          value={faults[fault] / unit}
          onChange={(value) => setFaults({ [fault]: Math.round(Number(value) * unit) })}
        />
      ))}
      {PATHS.map(({ fault, label }) => (
        <TextInput
          key={fault}
          label={label}
          placeholder="Part of a path; empty: none"
          maxLength={200}
          value={faults[fault]}
          onChange={({ currentTarget: { value } }) => setFaults({ [fault]: value })}
        />
      ))}
      <Checkbox
        mt={8}
        size="xs"
        label="Send whole files only, no parts"
        checked={faults.wholeOnly}
        onChange={({ currentTarget: { checked } }) => setFaults({ wholeOnly: checked })}
      />
      <h3>Studio</h3>
      <p className="quiet">main points to {state.main}.</p>
      <Button
        size="xs"
        variant="default"
        disabled={state.patchReleased}
        onClick={() => void act({ do: 'release-patch' }, '3.2.0 is out on main, and some mods have new releases.')}
      >
        {state.patchReleased ? '3.2.0 is out' : 'Release 3.2.0 on main'}
      </Button>
      <h3>Storefront</h3>
      <Checkbox
        size="xs"
        label="Quayline ignores the update setting"
        checked={state.ignoresSetting}
        onChange={(event) =>
          void act({ do: 'ignore-setting', ignores: event.currentTarget.checked }, 'Settings applied.')
        }
      />
      <Buttons>
        <Button size="xs" variant="default" mt={8} disabled={!reachesFolder} onClick={() => void ask()}>
          Let Quayline check the folder
        </Button>
      </Buttons>
      <h3>Other players</h3>
      <p className="quiet">Archives of mods that they pass around, to save and add under Shelf.</p>
      <HandedOn all={state.archives} />
      <p className="quiet">Logs of starts that went wrong, to save and read under Find what breaks it.</p>
      <HandedOn all={state.logs} />
      <h3>Somebody else</h3>
      <Button
        size="xs"
        variant="default"
        disabled={!reachesFolder}
        onClick={() => void attempt(async () => `Somebody appended a line to ${await changeAFile(install.id)}.`)}
      >
        Change a table in the folder
      </Button>
      <p>
        <button type="button" className={styles.small} onClick={() => address.set({ panel: undefined })}>
          Close the stand-ins
        </button>
      </p>
    </aside>
  );
}

/** Files that other players hand on, each with what they say of it. */
function HandedOn({ all }: { all: PanelState['archives'] }) {
  return (
    <ul className={styles.passed}>
      {all.map(({ name, words, href }) => (
        <li key={name}>
          <a className="link" href={href} download={name}>
            {name}
          </a>
          <div className="quiet">{words}</div>
        </li>
      ))}
    </ul>
  );
}
