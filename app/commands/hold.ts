import { asMod } from '#core/builds';
import type { HoldSheet, Mismatch } from '#core/hold';
import { Failure } from '#core/failure';
import { jobs } from '~/jobs';
import { type Given, query } from '~/queries';
import { broadcast, getHold, updateInstall } from '~/store';

/**
 * Holds what lies in the folder, as the sheet says that is drafted now.
 * @throws Failure `job/not-checked-out` when the folder is not known to be what is wanted, and those of the job
 */
export async function holdInstall(install: string): Promise<void> {
  const { draft } = await query('holdView', install);
  if (!draft) throw new Failure('job/not-checked-out', { what: 'checked folder' });
  await jobs.ended(await jobs.start('hold', install, { sheet: draft }));
}

/** Lets the hold go, where there is one. @throws Failure as the job does */
export async function letHoldGo(install: string): Promise<void> {
  const held = await getHold(install);
  if (held) await jobs.ended(await jobs.start('release', install, { sheet: held.sheet }));
}

/**
 * Has the storefront follow a branch, by its record.
 * @param code of a branch that needs one
 * @throws Failure `record/*`, `folder/*` as the job does
 */
export async function switchToBranch(install: string, branch: string, code: string | undefined): Promise<void> {
  const params = { branch, ...(code !== undefined && { code }) };
  await jobs.ended(await jobs.start('switch-branch', install, params));
}

/** A sheet that was taken over, or what it claims and that is not so. */
export type SheetOutcome =
  | { readonly taken: HoldSheet }
  /** `rest`: the sheet without what is not to be had here, where that is all that is against it. */
  | { readonly refused: readonly Mismatch[]; readonly rest?: HoldSheet };

/**
 * Takes over what a hold sheet describes as this install's target: build, ownership, weights and releases. A sheet with a
 * single claim that is not so changes nothing.
 * @throws Failure `list/encoding`, `json/*`, `hold-sheet/*` or `service/*`; nothing is changed then
 */
export async function importHoldSheet(install: string, given: Given, file: string): Promise<SheetOutcome> {
  const { sheet, mismatches, rest } = await query('readSheet', install, given, file);
  if (mismatches.length > 0) return { refused: mismatches, ...(rest && { rest }) };
  await takeSheet(install, sheet, true);
  return { taken: sheet };
}

/**
 * Makes what a sheet describes the target of an install.
 * @param isWhole whether its tree digest is claimed of all that is taken: what is laid down has to have it then
 */
export async function takeSheet(install: string, sheet: HoldSheet, isWhole: boolean): Promise<void> {
  await updateInstall(install, (now) => ({
    ...now,
    ownership: sheet.ownership,
    weights: Object.entries(sheet.weights).map(([mod, weight]) => [asMod(mod), weight] as const),
    target: {
      build: sheet.build,
      releases: sheet.releases.map(({ mod, release }) => [mod, release] as const),
      order: sheet.loadOrder,
      list: sheet.modList ?? '',
      decidedBy: 'hold-sheet',
      ...(isWhole && { sheetDigest: sheet.treeDigest }),
      ...(sheet.decision && { decision: sheet.decision }),
      at: Date.now(),
    },
  }));
  broadcast({ type: 'changed' });
}
