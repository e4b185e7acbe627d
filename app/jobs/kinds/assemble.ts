import { z } from 'zod';
import { keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { type Changes, changeSet, changesOf, inPlaceSteps, isInPlace, layDownSteps, recordSteps } from '~/changes';
import { type PlanView, query } from '~/queries';
import { getInstall, TargetSchema, updateInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';
import { noteChange } from './note-change';

const ParamsSchema = z.object({
  target: TargetSchema,
  /** How, where the place leaves a choice; as it usually does, where that is left out. */
  way: z.enum(['beside', 'in-place']).exactOptional(),
});

/** The files of a plan whose bytes have to be here before it can be carried out. */
function assertNothingMissing({ missing }: PlanView): void {
  if (missing.length > 0) throw new Failure('folder/not-found', { path: missing[0]!, missing: missing.length });
}

/** The tree that a job makes: of two browsers that lay the same folder down none has the other's. */
const treeOf = (job: string): string => `t-${job.slice(0, 8)}`;

/** Decides what is done, once; a job that was cut off goes on with what is written down. */
async function planLayDown(
  context: JobContext,
  changes: Changes,
  { target, way = 'beside' }: z.output<typeof ParamsSchema>,
): Promise<void> {
  const install = await getInstall(context.install);
  const [plan, { likeliest }] = await Promise.all([query('plan', install.id, target), query('frame', install.id)]);
  assertNothingMissing(plan);
  const from = await changes.disk.current();
  const record = await recordSteps(context.id, changes.disk, (now) => ({ ...now, build: target.build }));
  const isBeside = changes.ways.includes('beside') && way === 'beside';
  const steps = isBeside
    ? await layDownSteps(plan, from, treeOf(context.id), record)
    : [...inPlaceSteps(context.id, plan, from), ...record];
  const facts = { build: target.build, ...(likeliest && { from: likeliest }) };
  const ready = steps.flatMap((step) => (step.do === 'copy' || step.do === 'write' ? [keySize(step.key)] : []));
  const bytes = ready.reduce((sum, size) => sum + size, 0);
  context.phase(`Writing ${target.build}${isBeside ? ' beside' : ''}`, ready.length, bytes);
  await changes.run(context, context.id, 'on', changeSet(context.id, 'lay-down', facts, steps));
}

/**
 * Lays the target down beside the old folder, checks every byte of it and swaps the two; or where that cannot be, only what
 * differs, in place. Can be cut off anywhere: it goes on from its journal, and cancelling removes what it wrote and leaves
 * the folder as it was.
 */
export const assemble: Kind = {
  async run(context) {
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else await planLayDown(context, changes, readParams(context, ParamsSchema));
    await noteChange(context.install, changes, context.id);
    await changes.dropFetched();
  },
  async undo(context) {
    const changes = changesOf(await getInstall(context.install));
    const journalled = await changes.read(context.id);
    if (!journalled) return changes.letGo(context, context.id);
    await changes.run(context, context.id, 'back');
    if (isInPlace(journalled.set)) await noteChange(context.install, changes, context.id);
    const tree = await changes.disk.current();
    await updateInstall(context.install, ({ aside, ...now }) => ({
      ...now,
      tree,
      ...(aside && aside.set !== context.id && { aside }),
    }));
    await changes.letGo(context, context.id);
  },
};
