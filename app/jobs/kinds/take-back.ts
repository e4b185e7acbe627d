import { z } from 'zod';
import { changesOf, isInPlace } from '~/changes';
import { getInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';
import { noteHold } from './hold';
import { keepOwnBefore } from './keep-own';
import { noteChange } from './note-change';

const ParamsSchema = z.object({
  /** In the order in which they are turned. */
  sets: z.array(z.string()).min(1),
  way: z.enum(['on', 'back']),
});

async function turn(context: JobContext, set: string, way: 'on' | 'back'): Promise<void> {
  const changes = changesOf(await getInstall(context.install));
  const known = await changes.read(set);
  context.phase(known && isInPlace(known.set) ? 'Changing the files' : 'Swapping the folders', 0, 0);
  await changes.run(context, set, way);
  await noteChange(context.install, changes, set);
  const turned = await changes.read(set);
  if (turned) await noteHold(context.install, turned);
}

/** Takes change sets back that were made, or makes some again that were taken back. */
export const takeBack: Kind = {
  async run(context) {
    const { sets, way } = readParams(context, ParamsSchema);
    await keepOwnBefore(context, 'take-back');
    for (const set of sets) await turn(context, set, way);
  },
  async undo(context) {
    const { sets, way } = readParams(context, ParamsSchema);
    // One that was not reached stays as it is.
    for (const set of sets.toReversed()) await turn(context, set, way === 'on' ? 'back' : 'on');
  },
};
