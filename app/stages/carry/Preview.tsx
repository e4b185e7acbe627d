import { Button, Modal } from '@mantine/core';
import { useState } from 'react';
import { changedLines, linesOf } from '#core/merge';
import { textsOf } from '~/commands';
import { count, counted } from '~/parts/format';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { VirtualRows } from '~/parts/VirtualRows';
import type { CarryView } from '~/queries';
import type { MergedFile } from '~/workers';
import styles from './carry.module.css';

const LINE = 20;

interface Shown {
  readonly lines: readonly string[];
  /** Numbers of lines, from 1, that are not as the mod has them. */
  readonly changed: ReadonlySet<number>;
}

/** A merged file, line by line, before it becomes part of a release. */
export function Preview({ view, file, at }: { view: CarryView; file: MergedFile; at: Attempts }) {
  const { install } = useFrame();
  const [shown, setShown] = useState<Shown>();
  const show = async (): Promise<void> => {
    const [text] = await textsOf(install, view, [file]);
    if (text) setShown({ lines: linesOf(text.is), changed: changedLines(text.was, text.is) });
  };
  const { lines = [], changed = new Set<number>() } = shown ?? {};
  const [first = 1] = changed;
  return (
    <>
      <Button size="xs" variant="default" disabled={at.busy} onClick={() => at.attempt(show)}>
        Look at {file.path.split('/').at(-1)} as it becomes…
      </Button>
      <Modal opened={shown !== undefined} onClose={() => setShown(undefined)} title={file.path} size="xl">
        <p className="quiet">
          {counted(lines.length, 'line')}, {count(changed.size)} of them not as the mod has them: these are marked.
        </p>
        <div className={styles.preview}>
          <VirtualRows
            label="Lines of the file"
            height={LINE}
            length={lines.length}
            shown={first - 1}
            row={(i) => (
              <div className={styles.line} data-changed={changed.has(i + 1) || undefined}>
                <span className="quiet">{count(i + 1)}</span>
                <span title={changed.has(i + 1) ? 'Not as the mod has it' : undefined}>
                  {changed.has(i + 1) ? '+ ' : '  '}
                  {lines[i]}
                </span>
              </div>
            )}
          />
        </div>
      </Modal>
    </>
  );
}
