import { inLanes } from '#core/calls';
import { z } from 'zod';
import { inParts, LAY_DOWN_WAYS, PART_BYTES } from '#core/assemble';
import type { ChangeSet, Direction } from '#core/changes';
import { keySize } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { looseMeans } from '#core/hold';
import { factsOfMoves } from '#core/mend';
import {
  aroundFlags,
  type Changes,
  changeSet,
  changesOf,
  coveredBy,
  fetchedFor,
  holdMeans,
  inPlaceSteps,
  isInPlace,
  layDownSteps,
  madeTree,
  planOfPart,
  recordOf,
  recordSteps,
  withBuild,
} from '~/changes';
import { layDownWays } from '~/places';
import { type PlanView, query } from '~/queries';
import { getBytes, tokenFor } from '~/remote';
import { addHoldCheck, getHold, getInstall, getSession, TargetSchema, updateInstall } from '~/store';
import { beginPhase, type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { keepCovered } from './keep-covered';
import { keepOwnBefore } from './keep-own';
import { noteChange } from './note-change';
import { planningAnew } from './planning-anew';
import { shelveLeaving } from './shelve';

const ParamsSchema = z.object({
  target: TargetSchema,
  /** How, where the place leaves a choice; as it usually does, where that is left out. */
  way: z.enum(LAY_DOWN_WAYS).exactOptional(),
  /** Bytes that are got ready in one part, where it is laid down in parts. */
  partBytes: z.number().default(PART_BYTES),
  /** Files that are not waited for: what the folder has at their places stays. */
  without: z.array(z.string()).readonly().default([]),
  /** Only files at these paths are changed, in place; whatever else departs from the target stays as it is. */
  only: z.array(z.string()).readonly().exactOptional(),
});
type Params = z.output<typeof ParamsSchema>;

/** The files of a plan whose bytes have to be here before it can be carried out. */
function assertNothingMissing({ missing }: PlanView): void {
  if (missing.length > 0) throw new Failure('folder/not-found', { path: missing[0]!, missing: missing.length });
}

/** The set that makes a part. */
const partOf = (job: string, number: number): string => `${job}-${number}`;

interface Parts {
  /** How many were begun. */
  readonly begun: number;
  /** The last one, where it still keeps what it displaced. */
  readonly open: string | undefined;
  /** The build that lay in the folder before the first. */
  readonly from: string | undefined;
}

async function partsOf({ id, install, params }: JobContext, changes: Changes): Promise<Parts> {
  if (ParamsSchema.parse(params).way !== 'in-parts') return { begun: 0, open: undefined, from: undefined };
  const entries = new Map((await query('changesOfInstall', install)).map((entry) => [entry.id, entry]));
  let begun = 0;
  while (entries.has(partOf(id, begun))) begun++;
  const last = partOf(id, begun - 1);
  const open = begun > 0 && (await changes.read(last)) ? last : undefined;
  return { begun, open, from: entries.get(partOf(id, 0))?.facts['from'] };
}

/** What is told of a lay-down; of one in parts, what lay there before the first. */
async function factsOf({ install }: JobContext, build: string, { from, begun }: Parts): Promise<ChangeSet['facts']> {
  const before = begun > 0 ? from : (await query('frame', install)).likeliest;
  return { build, ...(before !== undefined && { from: before }) };
}

/** Goes on or back with a part, and gives up what it keeps; one that is being given up already can only be that. */
async function endPart(context: JobContext, changes: Changes, set: string, way: Direction): Promise<void> {
  if (!(await changes.read(set))?.lettingGo) {
    await changes.run(context, set, way);
    await noteChange(context.install, changes, set);
  }
  await changes.carryOut(context, { act: 'let-go', set });
}

/** Requests at once. */
const LANES = 6;

/**
 * Asks for a byte of each content that is to be given up: what a source tells of it need not have any more.
 * @throws Failure `service/*` of the first that cannot be had; nothing has been changed then
 */
async function proveFetchable(context: JobContext, { fetchable }: PlanView): Promise<void> {
  const { game } = await getInstall(context.install);
  const session = await getSession(game);
  const asked = [...fetchable].filter(([key]) => keySize(key) > 0);
  context.phase('Asking whether what is replaced can be fetched again', asked.length, 0);
  await inLanes(asked, LANES, context, async ([key, href]) => {
    const { signal } = context;
    const wish = { start: 0, end: 1, token: tokenFor(href, session?.token), signal };
    // Who gives whole files only has it as well.
    await getBytes(href, keySize(key), wish).catch((error: unknown) => {
      if (!isFailure(error, 'service/no-ranges')) throw error;
    });
    context.add(1, 0);
  });
}

/**
 * Lays down what can be had again part by part, giving up what each part displaces before the next one begins: for a drive
 * that cannot hold it. What nobody else has is not touched here.
 */
async function layDownWaived(
  context: JobContext,
  changes: Changes,
  { target, partBytes, without }: Params,
): Promise<void> {
  const parts = await partsOf(context, changes);
  const facts = await factsOf(context, target.build, parts);
  let set = parts.open;
  for (let number = parts.begun; ; number++) {
    if (set) await endPart(context, changes, set, 'on');
    const plan = await query('plan', context.install, target, without);
    assertNothingMissing(plan);
    if (number === 0) {
      await proveFetchable(context, plan);
      // Before a part gives it up.
      await keepCovered(context, changes, plan);
    }
    const [part] = inParts(plan.waivable, partBytes);
    if (!part) return;
    set = partOf(context.id, number);
    const from = await changes.disk.current();
    const steps = await aroundFlags(
      changes.disk,
      inPlaceSteps(set, planOfPart(plan, new Set(part.map(({ path }) => path))), from),
    );
    beginPhase(context, `Writing ${target.build}, part ${number + 1}`, steps);
    const asPart = changeSet(set, 'lay-down', { ...facts, part: String(number + 1) }, steps);
    await changes.run(context, set, 'on', asPart);
  }
}

/** A plan without whatever lies elsewhere than at these paths. */
const planAt = (plan: PlanView, paths: ReadonlySet<string>): PlanView => ({
  ...plan,
  ...planOfPart(plan, paths),
  missing: plan.missing.filter((path) => paths.has(path)),
});

/** Decides what is done, once; a job that was cut off goes on with what is written down. */
async function planLayDown(
  context: JobContext,
  changes: Changes,
  { target, way = 'beside', without, only }: Params,
): Promise<void> {
  const install = await getInstall(context.install);
  const [whole, parts] = await Promise.all([query('plan', install.id, target, without), partsOf(context, changes)]);
  const plan = only ? planAt(whole, new Set(only)) : whole;
  assertNothingMissing(plan);
  // In parts there is no room for it.
  if (way !== 'in-parts') await shelveLeaving(context, changes, target.releases);
  await keepCovered(context, changes, plan);
  const from = await changes.disk.current();
  const found = await recordOf(install);
  // One in the game's folder comes along as it is: it is the player's own there.
  const record = found?.inGame ? [] : await recordSteps(context.id, changes.disk, found, withBuild(target.build));
  const isBeside = !only && way === 'beside' && (await layDownWays(install.place)).includes('beside');
  const steps = isBeside
    ? await layDownSteps(plan, from, madeTree(context.id), record, await query('leavesOf', install.id))
    : [...(await aroundFlags(changes.disk, inPlaceSteps(context.id, plan, from))), ...record];
  const facts = {
    ...(await factsOf(context, target.build, parts)),
    ...factsOfMoves(plan.moves),
    ...(without.length > 0 && { without: String(without.length) }),
  };
  beginPhase(context, `Writing ${target.build}${isBeside ? ' beside' : ''}`, steps);
  await changes.run(context, context.id, 'on', changeSet(context.id, 'lay-down', facts, steps));
}

/**
 * Gives up what was fetched, which is laid down now, and what mods covered before in what cannot be taken back to any more.
 * In a store that cannot be read whole it stays.
 */
async function dropLaidDown(context: JobContext, changes: Changes): Promise<void> {
  const { install } = context;
  const view = await query('storeOfInstall', install);
  const kept = new Set(view?.history.flatMap(({ id, keeps }) => (keeps.files > 0 ? [coveredBy(id)] : [])));
  const past = view?.references.filter(
    ({ id, reason }) =>
      reason.kind === 'covered' && reason.install === install && id !== coveredBy(context.id) && !kept.has(id),
  );
  try {
    for (const reference of [fetchedFor(install), ...(past ?? []).map(({ id }) => id)])
      await changes.carryOut(uncounted(context), { act: 'drop', reference });
  } catch (error) {
    if (!isFailure(error, 'changes/damaged')) throw error;
  }
}

/** In a held folder, a change in place is a repair: it stands among the checks. */
async function noteRepair(context: JobContext, changes: Changes): Promise<void> {
  const { id, install } = context;
  const made = await changes.read(id);
  const hold = await getHold(install);
  if (!made || !isInPlace(made.set) || !hold) return;
  const repaired = made.set.steps.filter((step) => step.do === 'place' || step.do === 'take').length;
  const { departures, unknown } = await query('holdView', install);
  if (unknown.length > 0) return;
  const means = await holdMeans(await getInstall(install), hold, true);
  await addHoldCheck(install, { at: Date.now(), drift: departures.length, ...means, repaired });
  // Files that are right are not held while the storefront may update them.
  if (looseMeans(hold.sheet, means).length > 0 && departures.length === 0) context.then('hold', { sheet: hold.sheet });
}

/**
 * Lays the target down beside the old folder, checks every byte of it and swaps the two; or where that cannot be, only what
 * differs, in place. Can be cut off anywhere: it goes on from its journal, and cancelling removes what it wrote and leaves
 * the folder as it was; of a lay-down in parts, those that have been given up stay.
 */
export const assemble: Kind = {
  async run(context) {
    const changes = changesOf(await getInstall(context.install));
    const params = readParams(context, ParamsSchema);
    if (!(await changes.read(context.id))) {
      await keepOwnBefore(context, 'lay-down');
      if (params.way === 'in-parts') await layDownWaived(context, changes, params);
    }
    await planningAnew(context, changes, async () => {
      if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
      else await planLayDown(context, changes, params);
    });
    await noteChange(context.install, changes, context.id);
    await noteRepair(context, changes);
    await dropLaidDown(context, changes);
  },
  async undo(context) {
    const changes = changesOf(await getInstall(context.install));
    const journalled = await changes.read(context.id);
    const { open } = await partsOf(context, changes);
    if (open) await endPart(context, changes, open, 'back');
    await changes.carryOut(uncounted(context), { act: 'drop', reference: coveredBy(context.id) });
    if (!journalled) return changes.carryOut(context, { act: 'let-go', set: context.id });
    await changes.run(context, context.id, 'back');
    if (isInPlace(journalled.set)) await noteChange(context.install, changes, context.id);
    const tree = await changes.disk.current();
    await updateInstall(context.install, (now) => ({ ...now, tree }));
    await changes.carryOut(context, { act: 'let-go', set: context.id });
  },
};
