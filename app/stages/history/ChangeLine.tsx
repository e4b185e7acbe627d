import type { ToldChange } from '#core/contents';
import { Ago } from '~/parts/parts';
import { LookLink } from '~/parts/LookLink';
import { VirtualRows } from '~/parts/VirtualRows';
import { changeTitle } from '~/parts/change-title';
import { didWords, keepsWords, stateWords } from './history-words';
import styles from './history.module.css';

const ROW_HEIGHT = 72;

/** All changes of a folder on one line, newest first. */
export function ChangeLine({ history, shown }: { history: readonly ToldChange[]; shown: string | undefined }) {
  return (
    <VirtualRows
      label="Changes, newest first"
      length={history.length}
      height={ROW_HEIGHT}
      row={(i) => {
        const change = history[i]!;
        return (
          <LookLink
            changes={{ change: change.id, kept: undefined }}
            className={styles.change}
            aria-current={change.id === shown ? 'true' : undefined}
            data-item
            data-state={change.state}
          >
            <span className={styles.knot} aria-hidden="true" />
            <b className={styles.title}>{changeTitle(change)}</b>
            <span className={styles.when}>
              <Ago at={change.begunAt ?? change.at} />
            </span>
            <span className={styles.did}>{didWords(change)}</span>
            <span className={styles.keeps}>
              {stateWords(change)}
              {(change.state === 'made' || change.state === 'taken-back' || change.state === 'unfinished') &&
                ` · ${keepsWords(change)}`}
            </span>
          </LookLink>
        );
      }}
    />
  );
}
