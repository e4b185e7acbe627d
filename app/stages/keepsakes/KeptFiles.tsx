import { Checkbox } from '@mantine/core';
import { useMemo } from 'react';
import { keySize } from '#core/digest';
import { IN_GAME, type KeepsakeHead, type KeptRow, type OwnFile, ownName } from '#core/keepsakes';
import { shortenMiddle } from '#core/text';
import { FilterInput } from '~/parts/FilterInput';
import { bytes, count, counted, exactTime } from '~/parts/format';
import parts from '~/parts/parts.module.css';
import { ShareBand, Swatch } from '~/parts/Shares';
import { useAddress } from '~/parts/use-address';
import { VirtualRows } from '~/parts/VirtualRows';
import type { KeepsakeView } from '~/queries';
import { DOES_WORDS, KIND_NAMES, whyWords } from './keepsake-words';
import styles from './keepsakes.module.css';

const ROW = 27;
const LONGEST = 60;

type Row = (KeptRow & { readonly since?: never }) | (OwnFile & { readonly since: true });

const doesOf = (row: Row): KeptRow['does'] | 'since' => (row.since ? 'since' : row.does);

const RANK = { replaces: 0, returns: 1, since: 2, nothing: 3 } as const;

const BECOMES = { nothing: 'same', replaces: 'replaced', returns: 'comes', since: 'goes' } as const;

const WORDS = { ...DOES_WORDS, since: 'made since' } as const;

/** What of the kept bytes is as now, differs, is gone, and what was made since: a band of their shares. */
function Band({ rows }: { rows: readonly Row[] }) {
  const order = ['nothing', 'replaces', 'returns', 'since'] as const;
  const sums = order.map((does) => {
    const own = rows.filter((row) => doesOf(row) === does);
    return { does, files: own.length, bytes: own.reduce((sum, { key }) => sum + keySize(key), 0) };
  });
  const shown = sums.filter(({ files }) => files > 0);
  return (
    <>
      <ShareBand shares={shown.map(({ does, bytes: size }) => ({ of: BECOMES[does], amount: size }))} />
      <ul className={styles.legend}>
        {shown.map(({ does, files, bytes: size }) => (
          <li key={does}>
            <Swatch of={BECOMES[does]} />
            {counted(files, 'file')} {WORDS[does]}, {bytes(size)}
          </li>
        ))}
      </ul>
    </>
  );
}

/** The files of a keepsake beside what lies in their places now; those that are ticked are put back. */
export function KeptFiles({
  head,
  view,
  leaves,
  onLeave,
}: {
  head: KeepsakeHead;
  view: KeepsakeView | undefined;
  /** Names of files that are not put back. */
  leaves: ReadonlySet<string>;
  onLeave: (names: ReadonlySet<string>) => void;
}) {
  const address = useAddress();
  const filter = (address.get('files') ?? '').toLowerCase();
  const all = useMemo(
    (): Row[] => [...(view?.rows ?? []), ...(view?.since ?? []).map((file) => ({ ...file, since: true as const }))],
    [view],
  );
  const titles = new Map(view?.places.map(({ name, title }) => [name, title]));
  const named = (row: Row): string =>
    row.place === IN_GAME ? row.path : `${titles.get(row.place) ?? 'a folder no longer pointed at'}: ${row.path}`;
  // What differs is what one came for.
  const rows = all
    .filter((row) => named(row).toLowerCase().includes(filter))
    .toSorted((a, b) => RANK[doesOf(a)] - RANK[doesOf(b)]);
  const toggle = (row: Row): void => {
    const names = new Set(leaves);
    if (!names.delete(ownName(row))) names.add(ownName(row));
    onLeave(names);
  };
  const differing = rows.filter((row) => !row.since && row.does !== 'nothing');
  const ticked = differing.filter((row) => !leaves.has(ownName(row))).length;
  const setAll = (put: boolean): void => {
    const names = new Set(leaves);
    for (const row of differing) {
      if (put) names.delete(ownName(row));
      else names.add(ownName(row));
    }
    onLeave(names);
  };
  return (
    <div className={styles.middle}>
      <div className={styles.top}>
        <h2>
          {whyWords(head)}, {exactTime(head.at)}
        </h2>
        <FilterInput name="files" label="Filter the files" placeholder="Filter files" width={180} />
      </div>
      {view && (
        <>
          <Band rows={all} />
          <div className={styles.heads}>
            <Checkbox
              size="xs"
              label={ticked === differing.length ? 'Leave all as they are' : 'Put all back'}
              checked={differing.length > 0 && ticked === differing.length}
              indeterminate={ticked > 0 && ticked < differing.length}
              disabled={differing.length === 0}
              onChange={({ currentTarget }) => setAll(currentTarget.checked)}
            />
            <span className="quiet">{count(rows.length)} shown</span>
          </div>
          <VirtualRows
            label="Kept files"
            height={ROW}
            length={rows.length}
            row={(i) => {
              const row = rows[i]!;
              const name = ownName(row);
              const does = doesOf(row);
              const canPut = does === 'replaces' || does === 'returns';
              return (
                <div className={styles.row} title={named(row)}>
                  <Checkbox
                    size="xs"
                    aria-label={`Put ${named(row)} back`}
                    checked={canPut && !leaves.has(name)}
                    disabled={!canPut}
                    onChange={() => toggle(row)}
                  />
                  <span className={styles.state}>
                    <Swatch of={BECOMES[does]} /> {WORDS[does]}
                  </span>
                  <span className={parts.grow}>{shortenMiddle(named(row), LONGEST)}</span>
                  <span className={`quiet ${styles.kind}`}>{KIND_NAMES[row.kind]}</span>
                  <span className={`mono ${styles.when}`}>{row.modified === null ? '' : exactTime(row.modified)}</span>
                  <span className={`mono ${styles.size}`}>{bytes(keySize(row.key))}</span>
                </div>
              );
            }}
          />
        </>
      )}
    </div>
  );
}
