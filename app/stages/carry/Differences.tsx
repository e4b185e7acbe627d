import type { Difference } from '#core/merge';
import { count } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import { VirtualRows } from '~/parts/VirtualRows';
import type { CarryView } from '~/queries';
import styles from './carry.module.css';
import { outcomeOf, valueWords } from './carry-words';

const ROW = 34;

function Value({
  value,
  was,
  mark,
}: {
  value: string | undefined;
  was?: string | undefined;
  mark?: string | undefined;
}) {
  return (
    <span className={styles.value} data-by={mark} title={value}>
      {value === undefined ? (was === undefined ? '–' : '(removed)') : valueWords(value)}
    </span>
  );
}

/** Places that differ, side by side: the game's before, the mod's, the game's now, and what becomes of them. */
export function Differences({
  view,
  rows,
  selected,
}: {
  view: CarryView;
  rows: readonly { readonly difference: Difference; readonly place: number }[];
  selected: number | undefined;
}) {
  return (
    <>
      <div className={styles.heads} aria-hidden="true">
        <span className={styles.place}>Place</span>
        <span className={styles.value}>game, {view.from}</span>
        <span className={styles.value}>{view.name}</span>
        <span className={styles.value}>game, {view.to}</span>
        <span className={styles.outcome}>carried</span>
      </div>
      <VirtualRows
        label="Places that differ"
        height={ROW}
        length={rows.length}
        row={(i) => {
          const { difference, place } = rows[i]!;
          const { path, what, base, ours, theirs, by } = difference;
          const { value, why } = outcomeOf(difference);
          const isOpen = by === 'conflict' && difference.decision === undefined;
          return (
            <ItemLink changes={{ at: String(place) }} current={place === selected}>
              <span className={styles.place} title={path.join(' › ')}>
                <span className="mono">{what === 'lines' ? `line ${count(Number(path[0]))}` : path[0]}</span>
                {path.length > 1 && <span className="quiet"> {path.slice(1).join(' › ')}</span>}
                {what === 'column' && <span className="quiet"> column</span>}
              </span>
              <Value value={base} />
              <Value value={ours} was={base} mark={ours === base ? undefined : 'ours'} />
              <Value value={theirs} was={base} mark={theirs === base ? undefined : 'theirs'} />
              <span className={styles.outcome} data-open={isOpen || undefined}>
                {isOpen ? (
                  <b>decide</b>
                ) : (
                  <>
                    <b>{value === undefined ? '(removed)' : valueWords(value)}</b> <span className="quiet">{why}</span>
                  </>
                )}
              </span>
            </ItemLink>
          );
        }}
      />
    </>
  );
}
