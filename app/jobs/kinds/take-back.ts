import { z } from 'zod';
import { type Direction, SettlementSchema, stagedPath, type Step, treeFolder } from '#core/changes';
import { Failure } from '#core/failure';
import type { Keepsake } from '#core/keepsakes';
import { type Changes, changeSet, changesOf, isInPlace, recordSettlement } from '~/changes';
import { query } from '~/queries';
import { getInstall } from '~/store';
import { beginPhase, type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { endSuperseded } from './end-superseded';
import { noteHold } from './hold';
import { keepOwnBefore } from './keep-own';
import { noteChange } from './note-change';
import { noteProfile } from './switch-profile';

const ParamsSchema = z.object({
  /** In the order in which they are turned. */
  sets: z.array(z.string()).min(1),
  way: z.enum(['on', 'back']),
  /** What becomes of steps that meet what others have changed. */
  settle: z.array(z.tuple([z.string(), SettlementSchema])).default([]),
  /** Files that come along from the folder that is put aside. */
  along: z.array(z.string()).default([]),
});
type Params = z.output<typeof ParamsSchema>;

/** The player's files as they are before a set is turned: a profile that is left has them. */
const keepBefore = async (context: JobContext, number: number): Promise<Keepsake | undefined> =>
  keepOwnBefore(context, 'take-back', { also: await query('alongNow', context.install), number });

/** @param keepsake what the player had just before */
async function turn(
  context: JobContext,
  set: string,
  way: Direction,
  settle: Params['settle'],
  keepsake?: string,
): Promise<void> {
  const changes = changesOf(await getInstall(context.install));
  const known = await changes.read(set);
  if (!known) return;
  const isWhole = !isInPlace(known.set);
  context.phase(isWhole ? 'Swapping the folders' : 'Changing the files', 0, 0);
  const own = settle.flatMap(([other, settlement]) => (other === set ? [settlement] : []));
  const ofRecord = await recordSettlement(context, changes, await getInstall(context.install), known, way);
  const turning = {
    settle: ofRecord ? [...own.filter(({ step }) => step !== ofRecord.step), ofRecord] : own,
    ...(isWhole && { leaves: await query('leavesOf', context.install) }),
  };
  await changes.run(context, set, way, undefined, turning);
  await noteChange(context.install, changes, set);
  const turned = await changes.read(set);
  if (!turned) return;
  await noteHold(context.install, turned);
  await noteProfile(context.install, turned, keepsake);
}

const alongSet = (job: string): string => `${job}-along`;

/** Puts files of the folder that was put aside into the one that came, as a change of its own; what they go over is kept. */
async function bringAlong(
  context: JobContext,
  changes: Changes,
  from: string,
  paths: readonly string[],
): Promise<void> {
  const set = alongSet(context.id);
  if (await changes.read(set)) await changes.run(context, set, 'on');
  else {
    const current = await changes.disk.current();
    if (from === current) return;
    const [left, came] = [from, current].map((tree) => paths.map((path) => `${treeFolder(tree)}/${path}`));
    const [keys, before] = [await changes.keysOf(context, left!), await changes.keysOf(context, came!)];
    const wanted = keys.flatMap((key, i) => (key !== null && key !== before[i] ? [{ key, i }] : []));
    if (wanted.length === 0) return;
    const steps = [
      ...wanted.map(({ key, i }): Step => ({ do: 'copy', from: left![i]!, to: stagedPath(set, i), key })),
      ...wanted.map(({ key, i }): Step => ({
        ...{ do: 'place', from: stagedPath(set, i), to: came![i]!, key, before: before[i] ?? null },
      })),
    ];
    beginPhase(context, 'Bringing files along', steps);
    await changes.run(context, set, 'on', changeSet(set, 'bring-along', {}, steps));
  }
  await noteChange(context.install, changes, set);
}

/** The tree that counts before anything is turned, or did before this job was cut off. */
async function leftTree(changes: Changes, sets: readonly string[], way: Direction): Promise<string> {
  const [first] = (await Promise.all(sets.map((set) => changes.read(set)))).flatMap(
    (one) => one?.set.steps.filter((step) => step.do === 'exchange') ?? [],
  );
  if (first) return way === 'on' ? first.from : first.to;
  return changes.disk.current();
}

/** Takes change sets back that were made, or makes some again that were taken back. */
export const takeBack: Kind = {
  async run(context) {
    const { sets, way, settle, along } = readParams(context, ParamsSchema);
    const changes = changesOf(await getInstall(context.install));
    const left = await leftTree(changes, sets, way);
    for (const [number, set] of sets.entries()) {
      const known = await changes.read(set);
      // Let go meanwhile, by another browser: whoever is told "done" would believe that it was turned.
      if (!known) throw new Failure('changes/unknown', { set });
      if (known.ended && known.way === way) continue;
      const isSwitch = known.set.what === 'switch-profile';
      const kept = number === 0 || isSwitch ? await keepBefore(context, number) : undefined;
      await turn(context, set, way, settle, kept?.id);
    }
    if (along.length > 0) await bringAlong(context, changesOf(await getInstall(context.install)), left, along);
    await endSuperseded(context, sets, way);
  },
  async undo(context) {
    const { sets, way } = readParams(context, ParamsSchema);
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(alongSet(context.id))) {
      await turn(context, alongSet(context.id), 'back', []);
      await changes.carryOut(uncounted(context), { act: 'let-go', set: alongSet(context.id) });
    }
    // One that was not reached stays as it is.
    for (const set of sets.toReversed()) await turn(context, set, way === 'on' ? 'back' : 'on', []);
  },
};
