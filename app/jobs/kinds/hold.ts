import { z } from 'zod';
import type { BuildLabel } from '#core/builds';
import { type Journalled, PLACES, type Step } from '#core/changes';
import { HoldSheetSchema } from '#core/hold';
import { isBelow } from '#core/paths';
import { changesOf, holdMeans, withUpdates } from '~/changes';
import { treePath } from '~/folders';
import { query } from '~/queries';
import { addHoldCheck, getHold, getInstall, getJob, type Install, putHold, removeHold } from '~/store';
import { editRecord, takeBackEdit } from './edit-record';
import { type JobContext, type Kind, readParams } from '../job-context';

/** What is held, or no longer, was decided when it was asked for. */
const ParamsSchema = z.object({
  sheet: HoldSheetSchema,
  /** Whether the files themselves are made read-only too. */
  lockFiles: z.boolean().default(false),
});

const setUpdates = (
  context: JobContext,
  what: 'hold' | 'release',
  build: BuildLabel,
  flags: readonly Step[],
): Promise<void> =>
  editRecord(
    context,
    { what, facts: { build, ...(flags.length > 0 && { flags: String(flags.length) }) } },
    withUpdates(what === 'hold' ? 'stops' : 'goes'),
    what === 'hold',
    flags,
  );

/** Steps that make files of the folder read-only, or let them be written again; those that are so already are left. */
async function flagSteps(install: Install, paths: readonly string[], readOnly: boolean): Promise<Step[]> {
  const onDisk = paths.map((path) => treePath(install.tree, path));
  const locked = await changesOf(install).disk.readOnlyOf(onDisk);
  return onDisk.flatMap((path): Step[] =>
    locked.has(path) === readOnly ? [] : [{ do: 'flag', path, readOnly, before: !readOnly }],
  );
}

/**
 * Freezes what lies in the folder: the storefront's update setting, the lock of its record, the files themselves where that is
 * wanted, and the sheet that says what is held. The sheet is kept last, so that an interrupted hold is none.
 */
export const hold: Kind = {
  async run(context) {
    const { install } = context;
    const { sheet, lockFiles } = readParams(context, ParamsSchema);
    const now = await getInstall(install);
    const before = await getHold(install);
    const locked = lockFiles ? await query('heldPaths', install, sheet) : before?.locked;
    const done = await changesOf(now).read(context.id);
    await setUpdates(context, 'hold', sheet.build, !done && lockFiles ? await flagSteps(now, locked!, true) : []);
    // Written and locked again, a hold goes on with its checks.
    const goesOn = before?.sheet.heldAt === sheet.heldAt;
    const held = { ...(goesOn ? before : { checks: [] }), install, sheet, ...(locked && { locked }) };
    const found = await holdMeans(now, held, true);
    // The sheet says what is in effect: without a storefront's record neither is.
    const inEffect = { 'update-setting': found.setting, 'record-lock': found.lock };
    await putHold({ ...held, sheet: { ...sheet, means: sheet.means.filter((one) => inEffect[one] === true) } });
    await addHoldCheck(install, { at: Date.now(), drift: goesOn ? (before.checks.at(-1)?.drift ?? 0) : 0, ...found });
  },
  undo: takeBackEdit,
};

/** Lets the hold go: the storefront may update again, and files may be written. Undone by holding again. */
export const release: Kind = {
  async run(context) {
    const { sheet } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const { locked = [] } = (await getHold(install.id)) ?? {};
    const done = await changesOf(install).read(context.id);
    await setUpdates(context, 'release', sheet.build, done ? [] : await flagSteps(install, locked, false));
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
  const locked = set.steps.flatMap((step) =>
    step.do === 'flag' && isBelow(step.path, PLACES.trees) ? [step.path.split('/').slice(2).join('/')] : [],
  );
  if (isHeld && data) await putHold({ install, sheet: data.sheet, checks: [], ...(locked.length > 0 && { locked }) });
  else await removeHold(install);
}
