import { Button, Checkbox, Modal } from '@mantine/core';
import { useState } from 'react';
import { deleteKept, type LossAhead } from '~/commands';
import { bytes, count, counted } from '~/parts/format';
import { KIND_NAMES } from '~/parts/own-words';
import { Buttons, Notice, Section } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import styles from '~/parts/parts.module.css';

const MOST_SHOWN = 300;

/** What a source has of what would have to be fetched again, as it has just answered. */
function againWords({ files, bytes: size, asked, there }: LossAhead['again']): string {
  const what = `${counted(files, 'file')}, ${bytes(size)}, would lie nowhere on this drive.`;
  if (there === asked)
    return `${what} ${asked === files ? 'Their source has them now' : `Their source was asked for ${count(asked)} and has them`}: they can be fetched again.`;
  if (there === 0) return `${what} No source has given any of them just now: they may be gone for good.`;
  return `${what} Of ${count(asked)} asked for, their source has ${count(there)} now: the others may be gone for good.`;
}

/** Names what deleting what a change keeps would lose for good, and keeps of it what a person wants. */
export function LossDialog({
  loss,
  keeps,
  install,
  onClose,
}: {
  loss: LossAhead;
  /** Bytes that the change keeps. */
  keeps: number;
  install: string;
  onClose: () => void;
}) {
  const { lost, again } = loss;
  const [keep, setKeep] = useState<ReadonlySet<string>>(() => new Set(lost.map(({ at }) => at)));
  const { attempt, busy, failure } = useAttempt();
  const toggle = (at: string, is: boolean): void =>
    setKeep((now) => new Set(is ? [...now, at] : [...now].filter((one) => one !== at)));
  const gone = lost.length - keep.size;
  return (
    <Modal opened size="lg" onClose={onClose} title="Before it is deleted">
      {lost.length > 0 && (
        <>
          <Section>{counted(lost.length, 'file')} that nobody else is known to have</Section>
          <p>
            No build or mod that is known has them, and they lie nowhere else on this drive. Ticked ones are kept in a
            keepsake first, from which you can put them back.
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
      {lost.length + again.files === 0 && <p>All that it keeps lies elsewhere on this drive too.</p>}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button
          data-autofocus
          loading={busy}
          onClick={() =>
            attempt(async () => {
              await deleteKept(install, loss, keep);
              onClose();
            })
          }
        >
          Delete what it keeps, {bytes(keeps)}
          {gone > 0 && `, and ${counted(gone, 'file')} for good`}
        </Button>
        <Button variant="default" onClick={onClose}>
          Cancel
        </Button>
      </Buttons>
    </Modal>
  );
}
