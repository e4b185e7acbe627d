import type { Step } from '#core/changes';
import { Failure } from '#core/failure';
import { aroundFlags, changeSet, changesOf } from '~/changes';
import { treePath } from '~/folders';
import { query } from '~/queries';
import { getHold, getInstall } from '~/store';
import { beginPhase, type JobContext, type Kind } from '../job-context';
import { keepOwnBefore } from './keep-own';
import { inOneChange } from './in-one-change';
import { survey } from './survey';

async function plan(context: JobContext): Promise<void> {
  const install = await getInstall(context.install);
  if (await getHold(install.id)) throw new Failure('folder/held', { what: install.title });
  // Others may have changed it unnoticed.
  await survey.run({ ...context, params: { trustEarlier: true } });
  const { found, lost } = await query('losses', install.id);
  await keepOwnBefore(context, 'delete-files', { also: lost });
  const changes = changesOf(install);
  const tree = await changes.disk.current();
  const take = [...found].map(([path, key]): Step => ({ do: 'take', path: treePath(tree, path), key }));
  const steps = await aroundFlags(changes.disk, take);
  const facts = { files: String(take.length), kept: String(lost.length) };
  beginPhase(context, 'Deleting files', steps);
  await changes.run(context, context.id, 'on', changeSet(context.id, 'delete-files', facts, steps));
}

/**
 * Takes all files out of a folder, as one change set; what has changed since it was surveyed is read first. The player's own, and
 * what nobody else has, goes into a keepsake before that; the rest can be put back until what the set keeps is deleted.
 */
export const deleteFiles: Kind = inOneChange(plan);
