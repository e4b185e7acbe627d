import { Checkbox, Select } from '@mantine/core';
import { keySize } from '#core/digest';
import { isPutBack, type KeepsakeHead, ownName } from '#core/keepsakes';
import { shortenMiddle } from '#core/text';
import { FilterInput } from '~/parts/FilterInput';
import { bytes, count, counted, exactTime, shortTime } from '~/parts/format';
import parts from '~/parts/parts.module.css';
import { ShareBand, Swatch } from '~/parts/Shares';
import { useAddress } from '~/parts/use-address';
import { VirtualRows } from '~/parts/VirtualRows';
import type { KeepsakeView } from '~/queries';
import listing from '~/parts/listing.module.css';
import { DOES_WORDS, whyWords } from './keepsake-words';
import styles from './keepsakes.module.css';
import { doesOf, type Row, useShownFiles } from './shown-files';

const ROW = 27;
const LONGEST = 60;

const BECOMES = { nothing: 'same', replaces: 'replaced', returns: 'comes', unknown: 'unread', since: 'goes' } as const;

const WORDS = { ...DOES_WORDS, since: 'made since' } as const;

/** What of the kept bytes is as now, differs, is gone, and what was made since: a band of their shares. */
function Band({ rows }: { rows: readonly Row[] }) {
  const order = ['nothing', 'replaces', 'returns', 'unknown', 'since'] as const;
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
  const { all, rows, groups, group, nameOf, ownerOf } = useShownFiles(view);
  const toggle = (row: Row): void => {
    const names = new Set(leaves);
    if (!names.delete(ownName(row))) names.add(ownName(row));
    onLeave(names);
  };
  const differing = rows.filter((row) => !row.since && isPutBack(row));
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
    <div className={listing.middle}>
      <div className={listing.top}>
        <h2>
          {whyWords(head)}, {exactTime(head.at)}
        </h2>
        <div className={styles.filters}>
          {groups.length > 1 && (
            <Select
              size="xs"
              w={170}
              aria-label="Which files"
              placeholder="All files"
              clearable
              data={[...groups]}
              value={group}
              onChange={(value) => address.set({ of: value ?? undefined })}
            />
          )}
          <FilterInput name="files" label="Filter the files" placeholder="Filter files" width={150} />
        </div>
      </div>
      {view && (
        <>
          <Band rows={all} />
          <div className={listing.heads}>
            <Checkbox
              size="xs"
              label="Put all back"
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
              const canPut = !row.since && isPutBack(row);
              return (
                <div className={listing.row} title={nameOf(row)}>
                  <Checkbox
                    size="xs"
                    aria-label={`Put ${nameOf(row)} back`}
                    checked={canPut && !leaves.has(name)}
                    disabled={!canPut}
                    onChange={() => toggle(row)}
                  />
                  <span className={styles.state}>
                    <Swatch of={BECOMES[does]} /> {WORDS[does]}
                  </span>
                  <span className={parts.grow}>{shortenMiddle(nameOf(row), LONGEST)}</span>
                  <span className={`quiet ${styles.kind}`}>{ownerOf(row)}</span>
                  <span className={styles.when} title={row.modified === null ? undefined : exactTime(row.modified)}>
                    {row.modified === null ? '' : shortTime(row.modified)}
                  </span>
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
