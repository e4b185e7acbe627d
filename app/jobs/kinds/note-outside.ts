import { HISTORY_VERSION } from '#core/changes';
import { changesOf } from '~/changes';
import { canChange } from '~/places';
import { query } from '~/queries';
import type { Install } from '~/store';
import { type JobContext, uncounted } from '../job-context';

/**
 * Notes in the folder's history what others have changed between two surveys: what Regressum changes itself becomes part
 * of the earlier one.
 * @param before when the earlier survey began
 */
export async function noteOutside(context: JobContext, install: Install, before: number): Promise<void> {
  if (!(await canChange(install.place))) return;
  const change = await query('outsideChange', install.id, before);
  if (!change) return;
  const { from, to, at, ...files } = change;
  const counts = { written: 0, bytes: 0, moved: 0, swapped: false, ...files };
  const facts = { ...(from !== undefined && { from }), ...(to !== undefined && { build: to }) };
  // Named for the survey that found it, so that a survey which goes on notes it once.
  const entry = { version: HISTORY_VERSION, id: `seen-${context.id}`, at, what: 'outside', facts, counts } as const;
  await changesOf(install).carryOut(uncounted(context), { act: 'note', entry: { ...entry, state: 'seen' } });
}
