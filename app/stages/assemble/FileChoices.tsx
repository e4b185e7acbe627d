import { Checkbox } from '@mantine/core';
import { useState } from 'react';
import { shortenMiddle } from '#core/text';
import { counted } from '~/parts/format';
import { ownerWords } from '~/parts/owner-words';
import { strayWords } from '~/parts/stray-words';
import { VirtualRows } from '~/parts/VirtualRows';
import type { AssembleView } from '~/queries';
import { broadcast, updateInstall } from '~/store';
import styles from './assemble.module.css';

const LONGEST_PATH = 34;
const ROW_HEIGHT = 24;

async function setAlong(install: string, path: string, comes: boolean): Promise<void> {
  await updateInstall(install, (now) => ({ ...now, along: [...new Map(now.along).set(path, comes)] }));
  broadcast({ type: 'changed' });
}

/** Files that no target has: those that come along are ticked, the others stay behind. */
export function StayingBehind({
  view,
  install,
  names,
  title,
}: {
  view: AssembleView;
  install: string;
  names: ReadonlyMap<string, string>;
  title: string;
}) {
  const [isOpen, setOpen] = useState(view.along.length > 0);
  const rows = [
    ...view.along.map(({ path }) => ({ path, comes: true, canCome: true, says: 'comes along' })),
    ...view.leftBehind.map(({ file: { path }, name, canCome }) => ({
      ...{ path, comes: false, canCome },
      says: canCome ? (name ? strayWords(name, names) : '') : 'replaced',
    })),
  ];
  if (rows.length === 0) return null;
  return (
    <details open={isOpen} onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>
        {title}: {counted(view.leftBehind.length, 'file')}
        {view.along.length > 0 && `, ${view.along.length} more come along`}
      </summary>
      {isOpen && (
        <>
          <p className="quiet">Tick what is to come along.</p>
          <div className={styles.files} style={{ height: Math.min(8, rows.length) * ROW_HEIGHT + 2 }}>
            <VirtualRows
              label={title}
              length={rows.length}
              height={ROW_HEIGHT}
              row={(i) => {
                const { path, comes, canCome, says } = rows[i]!;
                return (
                  <div className={styles.file} title={path}>
                    <Checkbox
                      size="xs"
                      checked={comes}
                      disabled={!canCome}
                      label={shortenMiddle(path, LONGEST_PATH)}
                      onChange={() => void setAlong(install, path, !comes)}
                    />
                    <span className="quiet">{says}</span>
                  </div>
                );
              }}
            />
          </div>
        </>
      )}
    </details>
  );
}

/** Files of which there are several copies: whose stays, and whose it covers. */
export function Overlaps({ view, names }: { view: AssembleView; names: ReadonlyMap<string, string> }) {
  const { overlaps } = view;
  if (overlaps.length === 0) return null;
  return (
    <details>
      <summary>Mods replace {counted(overlaps.length, 'file')}</summary>
      <div className={styles.files} style={{ height: Math.min(8, overlaps.length) * 2 * ROW_HEIGHT + 2 }}>
        <VirtualRows
          label="Files of which there are several copies"
          length={overlaps.length}
          height={2 * ROW_HEIGHT}
          row={(i) => {
            const { path, owner, covers } = overlaps[i]!;
            return (
              <div className={styles.overlap} title={path}>
                <span>{shortenMiddle(path, LONGEST_PATH + 8)}</span>
                <span className="quiet">
                  {ownerWords(owner, names)} over {covers.map((copy) => ownerWords(copy, names)).join(', ')}
                </span>
              </div>
            );
          }}
        />
      </div>
    </details>
  );
}
