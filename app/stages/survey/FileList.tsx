import { NOBODY, type SortBy, STATES, type SurveyTable } from '#core/survey';
import { shortenMiddle } from '#core/text';
import { bytes } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { STATE_WORDS, StateMark } from '~/parts/state-marks';
import { groupWords } from '~/parts/stray-words';
import { VirtualRows } from '~/parts/VirtualRows';
import type { Address } from '~/parts/use-address';
import styles from './survey.module.css';

const ROW = 27;

const HEADS: readonly { by: SortBy; title: string; className: string }[] = [
  { by: 'state', title: 'State', className: styles.state! },
  { by: 'path', title: 'Path', className: parts.grow! },
  { by: 'whose', title: 'Owner', className: styles.whose! },
  { by: 'size', title: 'Size', className: styles.size! },
];

export interface Sorting {
  readonly by: SortBy;
  readonly descending: boolean;
}

/** The heads of the columns: each sorts by its column, and the other way round when it does already. */
function Heads({ sorting, address }: { sorting: Sorting; address: Address }) {
  return (
    <div className={styles.heads} role="group" aria-label="Columns">
      {HEADS.map(({ by, title, className }) => {
        const here = sorting.by === by;
        const next = here && !sorting.descending ? `${by}-down` : by === 'path' ? undefined : by;
        return (
          <button key={by} type="button" className={className} onClick={() => address.set({ sort: next })}>
            {title}
            {here && <span aria-hidden="true">{sorting.descending ? ' ↓' : ' ↑'}</span>}
            <span className="unseen">
              {here ? `, sorted ${sorting.descending ? 'downward' : 'upward'}; sort the other way` : ': sort by it'}
            </span>
          </button>
        );
      })}
    </div>
  );
}

/** The files that a filter lets through, sorted. */
export function FileList({
  table,
  shown,
  names,
  sorting,
  address,
}: {
  table: SurveyTable;
  shown: Uint32Array;
  names: ReadonlyMap<string, string>;
  sorting: Sorting;
  address: Address;
}) {
  const selected = address.get('file');
  return (
    <>
      <Heads sorting={sorting} address={address} />
      <VirtualRows
        label="Files"
        height={ROW}
        length={shown.length}
        row={(i) => {
          const place = shown[i]!;
          const path = table.paths[place]!;
          const state = STATES[table.states[place]!]!;
          const group = table.whose[place]!;
          return (
            <ItemLink changes={{ file: path }} current={selected === path}>
              <span className={styles.state}>
                <StateMark state={state} /> {STATE_WORDS[state]}
              </span>
              <span className={parts.grow} title={path}>
                {shortenMiddle(path, 64)}
              </span>
              <span className={`quiet ${styles.whose}`}>
                {group === NOBODY ? '' : groupWords(table.groups[group]!, names)}
              </span>
              <span className={`mono ${styles.size}`}>{bytes(table.sizes[place]!)}</span>
            </ItemLink>
          );
        }}
      />
    </>
  );
}
