import { changesOf } from '~/changes';
import { getInstall } from '~/store';
import type { JobContext, Kind } from '../job-context';
import { noteChange } from './note-change';
import { takeBackChange } from './take-back-change';

/**
 * A job that is one change set: planned and begun once, gone on with where it was cut off, and taken back where it is cancelled.
 * @param plan works the set out and makes it
 */
export const inOneChange = (
  plan: (context: JobContext) => Promise<void>,
  undo: NonNullable<Kind['undo']> = takeBackChange,
): Kind => ({
  async run(context) {
    const changes = changesOf(await getInstall(context.install));
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else await plan(context);
    await noteChange(context.install, changes, context.id);
  },
  undo,
});
