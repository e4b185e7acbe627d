import { SegmentedControl } from '@mantine/core';
import { counted } from '~/parts/format';
import parts from '~/parts/parts.module.css';
import { VirtualRows } from '~/parts/VirtualRows';
import type { ProfileView, SwitchView } from '~/queries';
import styles from './profiles.module.css';

const ROW = 27;

type ModRow = SwitchView['mods'][number];

function changeOf({ here, there }: ModRow): 'same' | 'out' | 'in' | 'other' {
  if (here === there) return 'same';
  return there === undefined ? 'out' : here === undefined ? 'in' : 'other';
}

const WORDS = { same: 'the same', out: 'goes', in: 'comes', other: 'another release' } as const;
const ORDER = ['in', 'other', 'out', 'same'] as const;

/** The mods of two profiles side by side, with what a switch does to each. */
export function ModDifferences({
  from,
  to,
  view,
  filter,
  onFilter,
}: {
  from: ProfileView;
  to: ProfileView;
  view: SwitchView;
  filter: 'differ' | 'all';
  onFilter: (filter: 'differ' | 'all') => void;
}) {
  const rows = view.mods.filter((row) => filter === 'all' || changeOf(row) !== 'same');
  const { replaced, added, removed } = view.files;
  const touched = replaced + added + removed;
  return (
    <div className={styles.middle}>
      <div className={styles.top}>
        <h2>
          From {from.title} to {to.title}
        </h2>
        <SegmentedControl
          size="xs"
          aria-label="Which mods are listed"
          data={[
            { value: 'differ', label: 'What differs' },
            { value: 'all', label: 'All mods' },
          ]}
          value={filter}
          onChange={(value) => onFilter(value === 'all' ? 'all' : 'differ')}
        />
      </div>
      <div className={styles.band} aria-hidden="true">
        {(
          [
            ['replaced', replaced],
            ['in', added],
            ['out', removed],
          ] as const
        ).map(([does, n]) => n > 0 && <span key={does} data-does={does} style={{ flexGrow: n }} />)}
      </div>
      <p className={`quiet ${styles.line}`}>
        {touched === 0
          ? 'No file of the game differs.'
          : `${counted(replaced, 'file')} replaced, ${counted(added, 'file')} added, ${counted(removed, 'file')} set aside; every other file stays untouched.`}
      </p>
      <div className={styles.heads}>
        <span className={parts.grow}>Mod</span>
        <span className={styles.release}>{from.title}</span>
        <span className={styles.release}>{to.title}</span>
        <span className={styles.does}>A switch</span>
      </div>
      <VirtualRows
        label="Mods of both profiles"
        height={ROW}
        length={rows.length}
        row={(i) => {
          const row = rows.toSorted((a, b) => ORDER.indexOf(changeOf(a)) - ORDER.indexOf(changeOf(b)))[i]!;
          const does = changeOf(row);
          return (
            <div className={styles.row}>
              <span className={parts.grow}>{row.name}</span>
              <span className={`mono ${styles.release}`}>{row.here ?? '–'}</span>
              <span className={`mono ${styles.release}`}>{row.there ?? '–'}</span>
              <span className={styles.does}>
                <span className={styles.swatch} data-does={does} aria-hidden="true" /> {WORDS[does]}
              </span>
            </div>
          );
        }}
      />
    </div>
  );
}
