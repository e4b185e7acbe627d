import { z } from 'zod';
import type { BuildLabel } from '#core/builds';
import type { Journalled } from '#core/changes';
import { HoldSheetSchema } from '#core/hold';
import { changesOf, recordMeans, recordOf, withUpdates } from '~/changes';
import { addHoldCheck, getHold, getInstall, getJob, putHold, removeHold } from '~/store';
import { editRecord, takeBackEdit } from './edit-record';
import { type JobContext, type Kind, readParams } from '../job-context';

/** What is held, or no longer, was decided when it was asked for. */
const ParamsSchema = z.object({ sheet: HoldSheetSchema });

const setUpdates = (context: JobContext, what: 'hold' | 'release', build: BuildLabel): Promise<void> =>
  editRecord(context, { what, facts: { build } }, withUpdates(what === 'hold' ? 'stops' : 'goes'), what === 'hold');

/**
 * Freezes what lies in the folder: the storefront's update setting, the lock of its record, and the sheet that says what
 * is held. The sheet is kept last, so that an interrupted hold is none.
 */
export const hold: Kind = {
  async run(context) {
    const { install } = context;
    const { sheet } = readParams(context, ParamsSchema);
    await setUpdates(context, 'hold', sheet.build);
    const now = await getInstall(install);
    const found = await recordMeans(changesOf(now).disk, await recordOf(now));
    // The sheet says what is in effect: without a storefront's record neither is.
    const inEffect = { 'update-setting': found.setting, 'record-lock': found.lock };
    const means = sheet.means.filter((one) => inEffect[one] === true);
    // Written and locked again, a hold goes on with its checks.
    const before = await getHold(install);
    const goesOn = before?.sheet.heldAt === sheet.heldAt;
    await putHold({ ...(goesOn ? before : { checks: [] }), install, sheet: { ...sheet, means } });
    await addHoldCheck(install, { at: Date.now(), drift: goesOn ? (before.checks.at(-1)?.drift ?? 0) : 0, ...found });
  },
  undo: takeBackEdit,
};

/** Lets the hold go: the storefront may update again. Undone by holding again. */
export const release: Kind = {
  async run(context) {
    const { sheet } = readParams(context, ParamsSchema);
    await setUpdates(context, 'release', sheet.build);
    await removeHold(context.install);
  },
  undo: takeBackEdit,
};

/**
 * Brings the hold to what turning a set that held, or released, has made of the storefront's record. Its sheet is the one
 * of the job that made the set, by whose id it goes; of one that is forgotten by now nothing is held.
 */
export async function noteHold(install: string, { set, way }: Journalled): Promise<void> {
  if (set.what !== 'hold' && set.what !== 'release') return;
  const isHeld = (set.what === 'hold') === (way === 'on');
  const { data } = ParamsSchema.safeParse((await getJob(set.id))?.params);
  if (isHeld && data) await putHold({ install, sheet: data.sheet, checks: [] });
  else await removeHold(install);
}
