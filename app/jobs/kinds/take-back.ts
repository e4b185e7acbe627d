import { z } from 'zod';
import { changesOf, isInPlace } from '~/changes';
import { query } from '~/queries';
import { getInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';
import { noteHold } from './hold';
import { keepOwnBefore } from './keep-own';
import { noteChange } from './note-change';
import { noteProfile } from './switch-profile';

const ParamsSchema = z.object({
  /** In the order in which they are turned. */
  sets: z.array(z.string()).min(1),
  way: z.enum(['on', 'back']),
});

/** @param keepsake what the player had just before */
async function turn(context: JobContext, set: string, way: 'on' | 'back', keepsake?: string): Promise<void> {
  const changes = changesOf(await getInstall(context.install));
  const known = await changes.read(set);
  context.phase(known && isInPlace(known.set) ? 'Changing the files' : 'Swapping the folders', 0, 0);
  await changes.run(context, set, way);
  await noteChange(context.install, changes, set);
  const turned = await changes.read(set);
  if (!turned) return;
  await noteHold(context.install, turned);
  await noteProfile(context.install, turned, keepsake);
}

/** Takes change sets back that were made, or makes some again that were taken back. */
export const takeBack: Kind = {
  async run(context) {
    const { sets, way } = readParams(context, ParamsSchema);
    const also = await query('alongNow', context.install);
    const kept = await keepOwnBefore(context, 'take-back', { also });
    for (const set of sets) await turn(context, set, way, kept?.id);
  },
  async undo(context) {
    const { sets, way } = readParams(context, ParamsSchema);
    // One that was not reached stays as it is.
    for (const set of sets.toReversed()) await turn(context, set, way === 'on' ? 'back' : 'on');
  },
};
