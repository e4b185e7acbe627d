import { Checkbox } from '@mantine/core';
import { useState } from 'react';
import { deleteKept, type LossAhead } from '~/commands';
import { bytes, count, counted } from '~/parts/format';
import { KIND_NAMES } from '~/parts/own-words';
import { AskDialog } from '~/parts/AskDialog';
import { Section } from '~/parts/parts';
import styles from '~/parts/parts.module.css';

const MOST_SHOWN = 300;

/** What a source has of what would have to be fetched again, as it has just answered. */
function againWords({ files, bytes: size, asked, there }: LossAhead['again']): string {
  const what = `${counted(files, 'file')}, ${bytes(size)}, would lie nowhere on this drive.`;
  const who =
    asked === files ? 'Their source was asked just now' : `Their source was asked for ${count(asked)} of them just now`;
  if (there === asked) return `${what} ${who}, and has ${asked === 1 ? 'it' : `all ${count(asked)}`}.`;
  return `${what} ${who}, and has ${there === 0 ? 'none' : count(there)}: the rest may be gone for good.`;
}

/** Names what deleting would lose for good, and keeps of it what a person wants. */
export function LossDialog({
  loss,
  what,
  install,
  onClose,
}: {
  loss: LossAhead;
  /** What is deleted, and how much that is. */
  what: string;
  install: string;
  onClose: () => void;
}) {
  const { lost, again } = loss;
  const [keep, setKeep] = useState<ReadonlySet<string>>(() => new Set(lost.map(({ at }) => at)));
  const toggle = (at: string, is: boolean): void =>
    setKeep((now) => new Set(is ? [...now, at] : [...now].filter((one) => one !== at)));
  const gone = lost.length - keep.size;
  return (
    <AskDialog
      title="Before it is deleted"
      act={`Delete ${what}${gone > 0 ? `, of that ${counted(gone, 'file')} for good` : ''}`}
      onAct={() => deleteKept(install, loss, keep)}
      onClose={onClose}
    >
      {lost.length > 0 && (
        <>
          <Section>{counted(lost.length, 'file')} that nobody else is known to have</Section>
          <p>
            {lost.length === 1
              ? 'No build or mod that is known has it, and it lies nowhere else on this drive. If it is ticked, it is kept in a keepsake first, from which you can put it back.'
              : 'No build or mod that is known has them, and they lie nowhere else on this drive. Ticked ones are kept in a keepsake first, from which you can put them back.'}
          </p>
          <ul className={styles.asked} aria-label="Files that nobody else is known to have">
            {lost.slice(0, MOST_SHOWN).map(({ at, path, kind }) => (
              <li key={at}>
                <Checkbox
                  size="xs"
                  label={<span className="mono">{path}</span>}
                  checked={keep.has(at)}
                  onChange={({ currentTarget }) => toggle(at, currentTarget.checked)}
                />
                <span className="quiet">{KIND_NAMES[kind]}</span>
              </li>
            ))}
          </ul>
          {lost.length > MOST_SHOWN && (
            <p className="quiet">And {count(lost.length - MOST_SHOWN)} more, which are kept as well.</p>
          )}
        </>
      )}
      {again.files > 0 && (
        <>
          <Section>To be fetched again</Section>
          <p>{againWords(again)}</p>
        </>
      )}
      {lost.length + again.files === 0 && <p>All of it lies elsewhere on this drive too.</p>}
    </AskDialog>
  );
}
