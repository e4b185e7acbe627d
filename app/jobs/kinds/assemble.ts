import { z } from 'zod';
import { treeFolder } from '#core/changes';
import { BuildLabelSchema } from '#core/builds';
import { Failure } from '#core/failure';
import { type Changes, changeSet, changesOf, layDownSteps, recordSteps } from '~/changes';
import { treePath } from '~/folders';
import { type PlanView, query } from '~/queries';
import { getInstall, putSurvey, type Target, TargetSchema, updateInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';

const ParamsSchema = z.object({ target: TargetSchema });

/** The files of a plan whose bytes have to be here before it can be carried out. */
function assertNothingMissing({ missing }: PlanView): void {
  if (missing.length > 0) throw new Failure('folder/not-found', { path: missing[0]!, missing: missing.length });
}

/** The tree that a job makes: of two browsers that lay the same folder down none has the other's. */
const treeOf = (job: string): string => `t-${job.slice(0, 8)}`;

/** Decides what is done, once; a job that was cut off goes on with what is written down. */
async function planLayDown(context: JobContext, changes: Changes, target: Target): Promise<void> {
  const install = await getInstall(context.install);
  const [plan, { likeliest }] = await Promise.all([query('plan', install.id, target), query('frame', install.id)]);
  assertNothingMissing(plan);
  const from = await changes.disk.current();
  const record = await recordSteps(context.id, changes.disk, (now) => ({ ...now, build: target.build }));
  const steps = await layDownSteps(plan, from, treeOf(context.id), record);
  const facts = { build: target.build, ...(likeliest && { from: likeliest }) };
  const phase = `Writing ${target.build} beside`;
  const bytes = plan.rows.reduce((sum, { size }) => sum + size, 0);
  context.phase(phase, plan.rows.length, bytes);
  await changes.run(context, context.id, 'on', changeSet(context.id, 'lay-down', facts, steps));
}

/** What was laid down was read file by file: it needs no survey of its own. */
async function noteSurvey(installId: string, changes: Changes, set: string): Promise<void> {
  const {
    set: { steps },
  } = (await changes.read(set))!;
  const tree = await changes.disk.current();
  const keys = new Map(
    steps.flatMap((step) => (step.do === 'copy' || step.do === 'write' ? [[step.to, step.key] as const] : [])),
  );
  const files = await changes.disk.list(treeFolder(tree));
  if (!files.every(({ path }) => keys.has(path))) return;
  const below = treePath(tree).length + 1;
  await putSurvey({
    install: installId,
    tree,
    at: Date.now(),
    paths: files.map(({ path }) => path.slice(below)),
    sizes: Float64Array.from(files, ({ size }) => size),
    modified: Float64Array.from(files, ({ modified }) => modified),
    keys: files.map(({ path }) => keys.get(path)!),
    trusted: 0,
    unreadable: [],
  });
}

/** Brings what the browser knows of an install to what lies on its disk after a lay-down was made or taken back. */
export async function noteExchange(installId: string, changes: Changes, set: string): Promise<void> {
  const journalled = await changes.read(set);
  const tree = await changes.disk.current();
  const exchange = journalled?.set.steps.find((step) => step.do === 'exchange');
  if (!journalled || !exchange) return;
  const other = tree === exchange.to ? exchange.from : exchange.to;
  const bytes = (await changes.disk.list(treeFolder(other))).reduce((sum, { size }) => sum + size, 0);
  const build = BuildLabelSchema.safeParse(journalled.set.facts[tree === exchange.to ? 'from' : 'build']).data;
  await updateInstall(installId, (now) => ({ ...now, tree, aside: { tree: other, build, bytes, set } }));
}

/**
 * Lays the target down beside the old folder, checks every byte of it and swaps the two. Can be cut off anywhere: it
 * goes on from its journal, and cancelling removes what it wrote and leaves the folder as it was.
 */
export const assemble: Kind = {
  async run(context) {
    const { target } = readParams(context, ParamsSchema);
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else await planLayDown(context, changes, target);
    await noteSurvey(context.install, changes, context.id);
    await noteExchange(context.install, changes, context.id);
    await changes.dropFetched();
  },
  async undo(context) {
    const changes = changesOf(await getInstall(context.install));
    if (!(await changes.read(context.id))) return changes.letGo(context, context.id);
    await changes.run(context, context.id, 'back');
    const tree = await changes.disk.current();
    await updateInstall(context.install, ({ aside, ...now }) => ({
      ...now,
      tree,
      ...(aside && aside.set !== context.id && { aside }),
    }));
    await changes.letGo(context, context.id);
  },
};
