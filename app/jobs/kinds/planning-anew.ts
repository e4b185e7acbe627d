import { type Journalled, PLACES, treeFolder } from '#core/changes';
import { contentNameOf } from '#core/contents';
import { isFailure } from '#core/failure';
import { isBelow } from '#core/paths';
import type { Changes } from '~/changes';
import { query } from '~/queries';
import { type JobContext, uncounted } from '../job-context';
import { noteFile } from './note-change';

/** Whether a set has only got ready what it is to put in place: nothing of the game's folder is another one by it. */
const isOnlyReady = ({ set, reached }: Journalled): boolean =>
  set.steps.slice(0, reached).every(({ do: what }) => what === 'copy' || what === 'write');

/**
 * Drops what was believed of a file that turned out to have other bytes.
 * @param path on the disk
 * @returns whether anything was believed of it that is believed no longer
 */
async function believeNoMore(context: JobContext, changes: Changes, path: string): Promise<boolean> {
  if (isBelow(path, PLACES.contents)) {
    await changes.carryOut(uncounted(context), { act: 'recheck', names: [contentNameOf(path)] });
    await query('storeChanged');
    return true;
  }
  if (!isBelow(path, treeFolder(await changes.disk.current()))) return false;
  await noteFile(context, changes, path);
  return true;
}

/**
 * Plans a change and goes on to its end. Where bytes turn out to be others than were read, before anything of the game's folder is
 * another one by it, what was got ready is removed, the belief is dropped, and it is planned once more: on what lies there now.
 * @param work goes on with the set of the job, or plans it where there is none
 * @throws Failure as the work does; `folder/changed-meanwhile` where the same file goes on changing, or is in a folder put aside
 */
export async function planningAnew(context: JobContext, changes: Changes, work: () => Promise<void>): Promise<void> {
  const met = new Set<string>();
  for (;;) {
    try {
      return await work();
    } catch (error) {
      if (!isFailure(error, 'folder/changed-meanwhile') || met.has(error.facts.path)) throw error;
      const begun = await changes.read(context.id);
      if (begun && !isOnlyReady(begun)) throw error;
      if (!(await believeNoMore(context, changes, error.facts.path))) throw error;
      met.add(error.facts.path);
      if (!begun) continue;
      await changes.run(context, context.id, 'back');
      await changes.carryOut(uncounted(context), { act: 'let-go', set: context.id });
    }
  }
}
