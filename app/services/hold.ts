import { asMod } from '#core/builds';
import { type HoldSheet, parseHoldSheet } from '#core/hold';
import { Failure } from '#core/failure';
import { browserDisk, INSTALL_DISK, RECORD_PATH } from '~/folders';
import { reckon } from '~/reckoning/client';
import { addHoldCheck, getHold, putHold, removeHold } from '~/store/holds';
import { updateInstall } from '~/store/installs';
import { journalled } from '~/store/journal';
import { getCatalogue, getIndex } from '~/store/services';
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
    const { draft } = await reckon('holdView', install);
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

/**
 * Takes over what a hold sheet describes as this install's target: build, ownership, weights and releases.
 * @throws Failure `json/*` or `hold-sheet/*`; nothing is changed then
 */
export async function importHoldSheet(install: string, text: string, file: string): Promise<HoldSheet> {
  const sheet = parseHoldSheet(text, file, await getIndex(), await getCatalogue());
  await updateInstall(install, (now) => ({
    ...now,
    ownership: sheet.ownership,
    weights: Object.entries(sheet.weights).map(([mod, weight]) => [asMod(mod), weight] as const),
    target: {
      build: sheet.build,
      releases: sheet.releases.map(({ mod, release }) => [mod, release] as const),
      decidedBy: 'hold-sheet',
      ...(sheet.decision && { decision: sheet.decision }),
      at: Date.now(),
    },
  }));
  return sheet;
}
