import { type Journalled, PLACES, treeFolder } from '#core/changes';
import { contentNameOf } from '#core/contents';
import { isFailure } from '#core/failure';
import { isBelow } from '#core/paths';
import type { Changes } from '~/changes';
import { query } from '~/queries';
import { type JobContext, uncounted } from '../job-context';
import { noteFile } from './note-change';

/**
 * Drops what was believed of a file that turned out to have other bytes.
 * @param path on the disk
 * @param begun the set that came upon it, where it is written down
 * @returns whether it can be planned anew without a question
 */
async function believeNoMore(
  context: JobContext,
  changes: Changes,
  path: string,
  begun: Journalled | undefined,
): Promise<boolean> {
  if (isBelow(path, PLACES.contents)) {
    await changes.carryOut(uncounted(context), { act: 'recheck', names: [contentNameOf(path)] });
    await query('storeChanged');
    return true;
  }
  const left = begun?.set.steps.find((step) => step.do === 'exchange')?.from;
  // In place it might be replaced now, which nobody has been told. A folder that is left stays as it is, with all that is in it.
  if (left === undefined || left !== (await changes.disk.current()) || !isBelow(path, treeFolder(left))) return false;
  await noteFile(context, changes, path);
  return true;
}

/**
 * Plans a change and goes on to its end. Where a content of the store, or a file that is copied from the folder, turns out to have other
 * bytes than were read, what was got ready is removed, the belief is dropped, and it is planned once more: on what lies there now.
 * @param work goes on with the set of the job, or plans it where there is none
 * @throws Failure as the work does; `folder/changed-meanwhile` where the same file goes on changing, is in a folder put aside, or might
 * be replaced by what is planned
 */
export async function planningAnew(context: JobContext, changes: Changes, work: () => Promise<void>): Promise<void> {
  const met = new Set<string>();
  for (;;) {
    try {
      return await work();
    } catch (error) {
      if (!isFailure(error, 'folder/changed-meanwhile') || met.has(error.facts.path)) throw error;
      const begun = await changes.read(context.id);
      if (!(await believeNoMore(context, changes, error.facts.path, begun))) throw error;
      met.add(error.facts.path);
      if (!begun) continue;
      await changes.run(context, context.id, 'back');
      await changes.carryOut(uncounted(context), { act: 'let-go', set: context.id });
    }
  }
}
