import { asMod } from '#core/builds';
import type { HoldSheet, Mismatch } from '#core/hold';
import { Failure } from '#core/failure';
import { browserDisk, INSTALL_DISK, RECORD_PATH } from '~/folders';
import { query } from '~/queries/client';
import type { Given } from '~/queries/reading';
import { addHoldCheck, getHold, putHold, removeHold } from '~/store/holds';
import { updateInstall } from '~/store/installs';
import { journalled } from '~/store/journal';
import { readRecord, writeRecord } from './install-record';

/** Only one hand at a time on an install's disk; a running job holds the same lock. */
const withDisk = <T>(install: string, work: () => Promise<T>): Promise<T> =>
  navigator.locks.request(`regressum-disk-${install}`, work) as Promise<T>;

async function setUpdates(install: string, updates: 'by-itself' | 'when-asked', lock: boolean): Promise<void> {
  const disk = browserDisk(INSTALL_DISK(install));
  const before = await readRecord(disk);
  const after = { ...before, updates };
  // An earlier hold that was cut off may have left the lock on.
  await disk.setReadOnly(RECORD_PATH, false);
  const texts = { before: JSON.stringify(before), after: JSON.stringify(after) };
  await journalled(install, 'hold', { kind: 'write-record', ...texts }, () => writeRecord(disk, after));
  await journalled(install, 'hold', { kind: 'flag', path: RECORD_PATH, readOnly: lock }, () =>
    disk.setReadOnly(RECORD_PATH, lock),
  );
}

/**
 * Freezes what lies in the folder: the storefront's update setting, the lock of its record, and the sheet that says what
 * is held. The sheet is kept last, so that an interrupted hold is none.
 * @throws Failure `job/not-checked-out` when the folder is not known to be what is wanted
 */
export function holdInstall(install: string): Promise<HoldSheet> {
  return withDisk(install, async () => {
    const { draft } = await query('holdView', install);
    if (!draft) throw new Failure('job/not-checked-out', { what: 'checked folder' });
    await setUpdates(install, 'when-asked', true);
    await putHold({ install, sheet: draft, checks: [] });
    await addHoldCheck(install, { at: Date.now(), drift: 0, setting: true, lock: true });
    return draft;
  });
}

/** Lets the hold go: the storefront may update again. Undone by holding again. */
export function letHoldGo(install: string): Promise<void> {
  return withDisk(install, async () => {
    if (!(await getHold(install))) return;
    await setUpdates(install, 'by-itself', false);
    await removeHold(install);
  });
}

/** A sheet that was taken over, or what it claims and that is not so. */
export type SheetOutcome = { readonly taken: HoldSheet } | { readonly refused: readonly Mismatch[] };

/**
 * Takes over what a hold sheet describes as this install's target: build, ownership, weights and releases. A sheet with a
 * single claim that is not so changes nothing.
 * @throws Failure `list/encoding`, `json/*`, `hold-sheet/*` or `service/*`; nothing is changed then
 */
export async function importHoldSheet(install: string, given: Given, file: string): Promise<SheetOutcome> {
  const { sheet, mismatches } = await query('readSheet', install, given, file);
  if (mismatches.length > 0) return { refused: mismatches };
  await updateInstall(install, (now) => ({
    ...now,
    ownership: sheet.ownership,
    weights: Object.entries(sheet.weights).map(([mod, weight]) => [asMod(mod), weight] as const),
    target: {
      build: sheet.build,
      releases: sheet.releases.map(({ mod, release }) => [mod, release] as const),
      decidedBy: 'hold-sheet',
      sheetDigest: sheet.treeDigest,
      ...(sheet.decision && { decision: sheet.decision }),
      at: Date.now(),
    },
  }));
  return { taken: sheet };
}
