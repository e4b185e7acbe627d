import type { StoredSurvey } from '~/store/records';
import type { JobContext } from '../job-context';
import { getInstall } from '~/store/installs';
import { batches, inLanes, runCounted } from './batches';
import { sourceOf } from './source';

/**
 * Hashes every file of a tree. A file that vanishes or cannot be read meanwhile is reported as itself, the rest goes on.
 * @returns columns sorted by path, without the unreadable ones
 */
export async function hashTree(
  context: JobContext,
  tree: string,
  phase: string,
): Promise<Omit<StoredSurvey, 'install'>> {
  const { reader, root, placeOf } = await sourceOf(await getInstall(context.install), tree);
  const at = Date.now();
  const entries = await reader.list(root);
  context.phase(
    phase,
    entries.length,
    entries.reduce((sum, { size }) => sum + size, 0),
  );
  const prefix = root === '' ? 0 : root.length + 1;
  const rows: { path: string; size: number; key: string }[] = [];
  const unreadable: StoredSurvey['unreadable'][number][] = [];
  await inLanes(batches(entries), 4, context, async (batch) => {
    const files = batch.map(({ path, size }) => ({ path, size }));
    const result = await runCounted(context, { do: 'hash', place: placeOf(files.map(({ path }) => path)), files });
    result.keys.forEach((key, i) => {
      if (key !== undefined) rows.push({ path: files[i]!.path.slice(prefix), size: result.sizes[i]!, key });
    });
    for (const { path, failure } of result.unreadable) unreadable.push({ path: path.slice(prefix), failure });
  });
  rows.sort((a, b) => (a.path < b.path ? -1 : 1));
  return {
    tree,
    at,
    paths: rows.map(({ path }) => path),
    sizes: Float64Array.from(rows, ({ size }) => size),
    keys: rows.map(({ key }) => key),
    unreadable,
  };
}
