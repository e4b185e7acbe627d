import { Button } from '@mantine/core';
import { useState } from 'react';
import type { Pile, StoreView } from '#core/contents';
import { deleteKept, lookAtLoss, type LossAhead } from '~/commands';
import { bytes, counted } from '~/parts/format';
import { ItemLink, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAttempt } from '~/parts/use-attempt';
import type { Install } from '~/store';
import { type DriveRow, driveRows } from './history-words';
import styles from './history.module.css';
import { Retention } from './Retention';
import { LossDialog } from './LossDialog';
import { StorePlace } from './StorePlace';

function Row({ row, shown }: { row: DriveRow; shown: string | undefined }) {
  const inside = (
    <>
      <span className={styles.pile} data-kind={row.kind} aria-hidden="true" />
      <span className={parts.grow}>{row.title}</span>
      <span className="mono" title={counted(row.files, 'file')}>
        {bytes(row.bytes)}
      </span>
    </>
  );
  return row.reference === undefined ? (
    <div className={styles.row}>{inside}</div>
  ) : (
    <ItemLink changes={{ kept: row.reference, change: undefined }} current={shown === row.reference}>
      {inside}
    </ItemLink>
  );
}

/** Deletes what nothing refers to; of what is no copy of the store's own each file is named first. */
function DeleteUnclaimed({ pile, install, disabled }: { pile: Pile; install: string; disabled: boolean }) {
  const { busy, failure, attempt } = useAttempt();
  const [loss, setLoss] = useState<LossAhead>();
  const what = `${counted(pile.files, 'unused file')}, ${bytes(pile.bytes)}`;
  const look = (): void =>
    attempt(async () => {
      const ahead = await lookAtLoss(install);
      if (ahead && ahead.lost.length + ahead.again.files > 0) setLoss(ahead);
      else if (ahead) await deleteKept(install, ahead, new Set());
    });
  return (
    <div className={styles.foot}>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Button size="xs" variant="default" disabled={disabled || busy} onClick={look}>
        {busy ? 'Looking at what would be lost…' : `Delete ${what}`}
      </Button>
      {loss && <LossDialog loss={loss} what={what} install={install} onClose={() => setLoss(undefined)} />}
    </div>
  );
}

/** All that lies on the drive for an install, and why; the sum is the drive's own. */
export function DriveList({
  view,
  install,
  free,
  shown,
  now,
  busy,
}: {
  view: StoreView;
  install: Install;
  /** Bytes free on the drive, where it tells. */
  free: number | undefined;
  shown: string | undefined;
  /** When the view was read. */
  now: number;
  busy: boolean;
}) {
  const { inventory, unreadable } = view;
  const unclaimed = inventory.piles.find(({ purpose }) => purpose.kind === 'unclaimed');
  return (
    <>
      <div className={parts.heading}>
        <span className="label">On this drive</span>
      </div>
      {driveRows(view, install.id).map((row) => (
        <Row key={row.key} row={row} shown={shown} />
      ))}
      <div className={styles.sum}>
        <span className={parts.grow}>Sum, as on the drive</span>
        <span className="mono" title={counted(inventory.files, 'file')}>
          {bytes(inventory.bytes)}
        </span>
      </div>
      {free !== undefined && (
        <div className={styles.row}>
          <span className={parts.grow}>Free</span>
          <span className="mono">{bytes(free)}</span>
        </div>
      )}
      {unclaimed && <DeleteUnclaimed pile={unclaimed} install={install.id} disabled={busy || unreadable.length > 0} />}
      {unreadable.length > 0 && (
        <div className={styles.foot}>
          <Notice>
            {unreadable[0]} cannot be read, perhaps since a newer Regressum wrote it. Nothing is deleted from the store
            until it can be.
          </Notice>
        </div>
      )}
      {install.place.kind === 'picked' && <StorePlace install={install} place={install.place} busy={busy} />}
      <Retention view={view} install={install} now={now} busy={busy} />
    </>
  );
}
