import { z } from 'zod';
import type { BuildLabel } from '#core/builds';
import type { Journalled } from '#core/changes';
import { HoldSheetSchema } from '#core/hold';
import { changeSet, changesOf, recordMeans, recordOf, recordSteps, withUpdates } from '~/changes';
import { addHoldCheck, getInstall, getJob, putHold, removeHold } from '~/store';
import { noteChange } from './note-change';
import { type JobContext, type Kind, readParams } from '../job-context';

/** What is held, or no longer, was decided when it was asked for. */
const ParamsSchema = z.object({ sheet: HoldSheetSchema });

/** Changes the storefront's record, and whether it is locked, as one change set. */
async function setUpdates(context: JobContext, what: 'hold' | 'release', build: BuildLabel): Promise<void> {
  const { id } = context;
  const install = await getInstall(context.install);
  const changes = changesOf(install);
  const record = await recordOf(install);
  if (await changes.read(id)) await changes.run(context, id, 'on');
  else {
    const isHeld = what === 'hold';
    // Browsers cannot lock what lies in a folder that was picked.
    const canLock = install.place.kind !== 'picked';
    const change = withUpdates(isHeld ? 'stops' : 'goes');
    const steps = await recordSteps(id, changes.disk, record, change, canLock ? isHeld : undefined);
    // Without a record of the storefront's there is nothing to change.
    if (steps.length === 0) return;
    await changes.run(context, id, 'on', changeSet(id, what, { build }, steps));
  }
  if (record?.inGame) await noteChange(install.id, changes, id);
}

async function takeBack(context: JobContext): Promise<void> {
  const install = await getInstall(context.install);
  const changes = changesOf(install);
  if (await changes.read(context.id)) await changes.run(context, context.id, 'back');
  // What is known of the folder follows, as when it was made.
  if ((await recordOf(install))?.inGame) await noteChange(install.id, changes, context.id);
  await changes.carryOut(context, { act: 'let-go', set: context.id });
}

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
    await putHold({ install, sheet: { ...sheet, means }, checks: [] });
    await addHoldCheck(install, { at: Date.now(), drift: 0, ...found });
  },
  undo: takeBack,
};

/** Lets the hold go: the storefront may update again. Undone by holding again. */
export const release: Kind = {
  async run(context) {
    const { sheet } = readParams(context, ParamsSchema);
    await setUpdates(context, 'release', sheet.build);
    await removeHold(context.install);
  },
  undo: takeBack,
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
