import { makeReference } from '#core/contents';
import { keySize } from '#core/digest';
import { type Changes, coveredBy } from '~/changes';
import { type PlanView, query } from '~/queries';
import { platformSha256 } from '~/remote';
import type { JobContext } from '../job-context';

/** What mods cover is kept, so that taking one out puts the game's own file back without fetching it. */
export async function keepCovered(
  context: JobContext,
  changes: Changes,
  { build, covered }: Pick<PlanView, 'build' | 'covered'>,
): Promise<void> {
  const { install } = context;
  if (covered.size === 0) return;
  const bytes = [...covered.keys()].reduce((sum, key) => sum + keySize(key), 0);
  context.phase('Keeping the files that mods replace', covered.size, bytes);
  const named = { id: coveredBy(context.id), at: Date.now(), reason: { kind: 'covered', install, build } } as const;
  const reference = await makeReference(named, covered.keys(), { sha256: platformSha256 });
  await changes.carryOut(context, { act: 'keep', reference, from: [...covered] });
  await query('storeChanged');
}
