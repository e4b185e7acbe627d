import { Button, Checkbox, TextInput } from '@mantine/core';
import { useState } from 'react';
import { type Choice, type Difference, shifted } from '#core/merge';
import { decideCarried } from '~/commands';
import { Buttons } from '~/parts/parts';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { CarryView } from '~/queries';
import styles from './carry.module.css';
import { conflictWords, valueWords } from './carry-words';

const isSame = (a: { path: readonly string[] } & Partial<Difference>, b: Difference): boolean =>
  a.path.join('\n') === b.path.join('\n') && a.base === b.base && a.ours === b.ours && a.theirs === b.theirs;

/** Decides a place that both the mod and the game have changed. */
export function Decide({
  view,
  file,
  difference,
  at,
}: {
  view: CarryView;
  file: string;
  difference: Difference;
  at: Attempts;
}) {
  const { install } = useFrame();
  const [written, setWritten] = useState<string>();
  const [always, setAlways] = useState(false);
  const { path, what, base, ours, theirs, decision } = difference;
  const name = path.at(-1) ?? '';
  const kept = what === 'cell' || what === 'value' ? shifted(difference) : undefined;
  const rises = kept !== undefined && Number(ours) > Number(base);
  const choose = (choice: Choice): void =>
    at.attempt(async () => {
      await decideCarried(install.id, view.mod, ({ decided, rules }) => {
        if (always && typeof choice !== 'object')
          return {
            decided,
            rules: [...rules.filter((one) => one.file !== file || one.name !== name), { file, name, choice }],
          };
        const others = decided.filter((one) => one.file !== file || !isSame(one, difference));
        return { decided: [...others, { file, path, base, ours, theirs, choice }], rules };
      });
      setWritten(undefined);
    });
  const isDecided = view.decided.some((one) => one.file === file && isSame(one, difference));
  return (
    <section className={styles.decide} aria-label={`Decide ${path.join(', ')}`}>
      <p>
        <b>{path.join(', ')}.</b> {conflictWords(difference)}
      </p>
      {written === undefined ? (
        <Buttons>
          <Button size="xs" variant="default" disabled={at.busy} onClick={() => choose('ours')}>
            {ours === undefined ? 'Remove it, as the mod does' : `Take the mod’s ${valueWords(ours)}`}
          </Button>
          <Button size="xs" variant="default" disabled={at.busy} onClick={() => choose('theirs')}>
            {theirs === undefined ? 'Remove it, as the game does' : `Take the game’s ${valueWords(theirs)}`}
          </Button>
          {kept !== undefined && kept !== ours && (
            <Button size="xs" variant="default" disabled={at.busy} onClick={() => choose('shift')}>
              Keep the mod’s {rises ? 'raise' : 'cut'}: {kept}
            </Button>
          )}
          {what !== 'row' && what !== 'column' && (
            <Button size="xs" variant="default" disabled={at.busy} onClick={() => setWritten(ours ?? theirs ?? '')}>
              Write a value
            </Button>
          )}
          {isDecided && decision !== undefined && (
            <Button
              size="xs"
              variant="default"
              disabled={at.busy}
              onClick={() =>
                at.attempt(() =>
                  decideCarried(install.id, view.mod, ({ decided, rules }) => ({
                    decided: decided.filter((one) => one.file !== file || !isSame(one, difference)),
                    rules,
                  })),
                )
              }
            >
              Leave it open again
            </Button>
          )}
        </Buttons>
      ) : (
        <form
          className={styles.write}
          aria-label="Write a value"
          onSubmit={(event) => {
            event.preventDefault();
            choose({ value: written });
          }}
        >
          <TextInput
            size="xs"
            label="Value"
            value={written}
            data-autofocus
            onChange={(event) => setWritten(event.currentTarget.value)}
          />
          <Button size="xs" type="submit" disabled={at.busy}>
            Take it
          </Button>
          <Button size="xs" variant="default" onClick={() => setWritten(undefined)}>
            Do not
          </Button>
        </form>
      )}
      {(what === 'cell' || what === 'value') && written === undefined && (
        <Checkbox
          size="xs"
          label={`For every ${name} of this file that both changed, also after the next patch`}
          checked={always}
          onChange={(event) => setAlways(event.currentTarget.checked)}
        />
      )}
    </section>
  );
}
