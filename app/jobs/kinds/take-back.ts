import { z } from 'zod';
import type { ChangeSet } from '#core/changes';
import { type Changes, changeSet, changesOf, isInPlace } from '~/changes';
import { getInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';
import { noteChange } from './note-change';

const ParamsSchema = z.object({ set: z.string(), way: z.enum(['on', 'back']) });

/**
 * The set by which a folder was put aside. A folder that an older version put aside has none: then it is a set that puts
 * it in place again.
 */
export async function setOfAside(installId: string, changes: Changes, set: string): Promise<ChangeSet | undefined> {
  const { aside } = await getInstall(installId);
  if (aside?.set !== set || (await changes.read(set))) return undefined;
  const from = await changes.disk.current();
  return changeSet(set, 'lay-down', {}, [{ do: 'exchange', from, to: aside.tree }]);
}

async function go(context: JobContext, turn: boolean): Promise<void> {
  const { set, way } = readParams(context, ParamsSchema);
  const changes = changesOf(await getInstall(context.install));
  const known = await changes.read(set);
  context.phase(known && isInPlace(known.set) ? 'Changing the files' : 'Swapping the folders', 0, 0);
  await changes.run(
    context,
    set,
    turn === (way === 'on') ? 'back' : 'on',
    await setOfAside(context.install, changes, set),
  );
  await noteChange(context.install, changes, set);
}

/** Takes a change set back that was made, or makes one again that was taken back. */
export const takeBack: Kind = {
  run: (context) => go(context, false),
  undo: (context) => go(context, true),
};
