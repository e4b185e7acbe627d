import { z } from 'zod';
import { HoldSheetSchema, type InstallRecord } from '#core/hold';
import { type Changes, changeSet, changesOf, recordMeans, recordSteps } from '~/changes';
import { addHoldCheck, getHold, getInstall, putHold, removeHold } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';

/** What is held was decided when it was asked for. */
const ParamsSchema = z.object({ sheet: HoldSheetSchema });

/** Changes the storefront's record, and whether it is locked, as one change set. */
async function setUpdates(
  context: JobContext,
  changes: Changes,
  what: 'hold' | 'release',
  updates: InstallRecord['updates'],
): Promise<void> {
  const { id } = context;
  if (await changes.read(id)) {
    await changes.run(context, id, 'on');
    return;
  }
  const steps = await recordSteps(id, changes.disk, (now) => ({ ...now, updates }), what === 'hold');
  // Without a record of the storefront's there is nothing to change.
  if (steps.length === 0) return;
  await changes.run(context, id, 'on', changeSet(id, what, {}, steps));
  await dropOldest(context, changes);
}

/** Changes of a storefront's record that are kept: what each displaces is small, but they are many over the years. */
const MOST_KEPT = 6;

async function dropOldest(context: JobContext, changes: Changes): Promise<void> {
  const small = (await changes.list()).filter(({ set, ended }) => ended && set.what !== 'lay-down');
  for (const { set } of small.slice(0, Math.max(0, small.length - MOST_KEPT))) await changes.letGo(context, set.id);
}

async function takeBack(context: JobContext): Promise<void> {
  const changes = changesOf(await getInstall(context.install));
  if (await changes.read(context.id)) await changes.run(context, context.id, 'back');
  await changes.letGo(context, context.id);
}

/**
 * Freezes what lies in the folder: the storefront's update setting, the lock of its record, and the sheet that says what
 * is held. The sheet is kept last, so that an interrupted hold is none.
 */
export const hold: Kind = {
  async run(context) {
    const { install } = context;
    const { sheet } = readParams(context, ParamsSchema);
    await setUpdates(context, changesOf(await getInstall(install)), 'hold', 'when-asked');
    const found = await recordMeans(changesOf(await getInstall(install)).disk);
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
    if (!(await getHold(context.install))) return;
    await setUpdates(context, changesOf(await getInstall(context.install)), 'release', 'by-itself');
    await removeHold(context.install);
  },
  undo: takeBack,
};
