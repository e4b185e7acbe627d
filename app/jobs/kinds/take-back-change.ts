import { changesOf } from '~/changes';
import { getInstall } from '~/store';
import type { JobContext } from '../job-context';
import { noteChange } from './note-change';

/** Takes back the set of a job, as far as it came, and lets it go. */
export async function takeBackChange(context: JobContext): Promise<void> {
  const changes = changesOf(await getInstall(context.install));
  if (await changes.read(context.id)) {
    await changes.run(context, context.id, 'back');
    await noteChange(context.install, changes, context.id);
  }
  await changes.carryOut(context, { act: 'let-go', set: context.id });
}
