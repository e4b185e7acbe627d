import { SegmentedControl } from '@mantine/core';
import { counted } from '~/parts/format';
import parts from '~/parts/parts.module.css';
import { type Becomes, ShareBand, Swatch } from '~/parts/Shares';
import { VirtualRows } from '~/parts/VirtualRows';
import type { ProfileView, SwitchView } from '~/queries';
import listing from '~/parts/listing.module.css';
import styles from './profiles.module.css';

const ROW = 27;

type ModRow = SwitchView['mods'][number];

type ModBecomes = Exclude<Becomes, 'unread'>;

function changeOf({ here, there }: ModRow): ModBecomes {
  if (here === there) return 'same';
  return there === undefined ? 'goes' : here === undefined ? 'comes' : 'replaced';
}

const WORDS: Record<ModBecomes, string> = {
  same: 'the same',
  goes: 'goes',
  comes: 'comes',
  replaced: 'another release',
};
const ORDER: readonly ModBecomes[] = ['comes', 'replaced', 'goes', 'same'];

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
    <div className={listing.middle}>
      <div className={listing.top}>
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
      <ShareBand
        shares={(
          [
            { of: 'replaced', amount: replaced },
            { of: 'comes', amount: added },
            { of: 'goes', amount: removed },
          ] as const
        ).filter(({ amount }) => amount > 0)}
      />
      <p className={`quiet ${listing.line}`}>
        {touched === 0
          ? 'No file of the game differs.'
          : `${counted(replaced, 'file')} replaced, ${counted(added, 'file')} added, ${counted(removed, 'file')} set aside; every other file stays untouched.`}
      </p>
      <div className={listing.heads}>
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
            <div className={listing.row}>
              <span className={parts.grow}>{row.name}</span>
              <span className={`mono ${styles.release}`}>{row.here ?? '–'}</span>
              <span className={`mono ${styles.release}`}>{row.there ?? '–'}</span>
              <span className={styles.does}>
                <Swatch of={does} /> {WORDS[does]}
              </span>
            </div>
          );
        }}
      />
    </div>
  );
}
