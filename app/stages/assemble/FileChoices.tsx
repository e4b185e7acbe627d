import { Checkbox, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { Owner } from '#core/fetch';
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

/** Files of which there are several copies: whose stays, and whose it covers; found by path, or by whose they are. */
export function Overlaps({ view, names }: { view: AssembleView; names: ReadonlyMap<string, string> }) {
  const [wanted, setWanted] = useState('');
  const depots = new Map(view.layers.map(({ depot }) => [depot.id as string, depot.title]));
  const words = (owner: Owner): string =>
    owner.kind === 'depot' ? (depots.get(owner.depot) ?? owner.depot) : ownerWords(owner, names);
  const rows = view.overlaps.map(({ path, owner, covers }) => ({
    path,
    says: `${words(owner)} over ${covers.map(words).join(', ')}`,
  }));
  if (rows.length === 0) return null;
  const shown = rows.filter(({ path, says }) => `${path} ${says}`.toLowerCase().includes(wanted.toLowerCase()));
  return (
    <details>
      <summary>{counted(rows.length, 'file')} with several copies</summary>
      <TextInput
        size="xs"
        mb={4}
        aria-label="Find one by its path or by whose it is"
        placeholder="Find a path, a depot or a mod"
        value={wanted}
        onChange={({ currentTarget }) => setWanted(currentTarget.value)}
      />
      <div className={styles.files} style={{ height: Math.min(8, Math.max(1, shown.length)) * 2 * ROW_HEIGHT + 2 }}>
        <VirtualRows
          label="Files of which there are several copies"
          length={shown.length}
          height={2 * ROW_HEIGHT}
          row={(i) => {
            const { path, says } = shown[i]!;
            return (
              <div className={styles.overlap} title={path}>
                <span>{shortenMiddle(path, LONGEST_PATH + 8)}</span>
                <span className="quiet" title={says}>
                  {says}
                </span>
              </div>
            );
          }}
        />
      </div>
    </details>
  );
}
