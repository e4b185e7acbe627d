import { assertGoing } from '#core/calls';
import { failureToWire, isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { decideBy, type Difference, summaryOf } from '#core/merge';
import { mergeBytes } from '~/merging/merge-bytes';
import type { DiskPorts } from './arrival-tasks';
import type { MergedFile, MergeTask, MergeWish } from './protocol';

/** Places that are shown of a file: more nobody looks through. */
const MOST_SHOWN = 5000;

type Ports = Pick<DiskPorts, 'signal' | 'progress'> & { readonly from: Pick<FolderReader, 'read'> };

/** Conflicts first, in their order; then what else differs. */
const shown = (differences: readonly Difference[]): Difference[] =>
  [...differences.filter(({ by }) => by === 'conflict'), ...differences.filter(({ by }) => by !== 'conflict')].slice(
    0,
    MOST_SHOWN,
  );

const nothing = { ...{ differences: [], count: { clean: 0, decided: 0, open: 0 } }, did: { ours: [], theirs: [] } };

async function mergeOne({ path, hints, three }: MergeWish, task: MergeTask, { from }: Ports): Promise<MergedFile> {
  const [base, ours, theirs] = await Promise.all(three.map(({ at, size }) => from.read(at, 0, size)));
  try {
    const merge = mergeBytes([base!, ours!, theirs!], hints, decideBy(path, task.decided, task.rules));
    if (!merge) return { path, kind: undefined, ...nothing, merged: undefined };
    const { kind, key, differences, merged } = merge;
    const conflicts = differences.filter(({ by }) => by === 'conflict');
    const decided = conflicts.filter(({ decision }) => decision !== undefined).length;
    return {
      ...{ path, kind, ...(key && { key }), differences: shown(differences), merged },
      count: { clean: differences.length - conflicts.length, decided, open: conflicts.length - decided },
      did: { ours: summaryOf(differences, 'ours'), theirs: summaryOf(differences, 'theirs') },
    };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return { path, kind: undefined, ...nothing, merged: undefined, failure: failureToWire(error) };
  }
}

/** Merges files one after the other: three of them are held at once. */
export async function mergeFiles(task: MergeTask, ports: Ports): Promise<{ files: readonly MergedFile[] }> {
  const files: MergedFile[] = [];
  for (const wish of task.files) {
    assertGoing(ports.signal);
    files.push(await mergeOne(wish, task, ports));
    ports.progress({ kind: 'bytes', files: 1, bytes: wish.three.reduce((sum, { size }) => sum + size, 0) });
  }
  return { files };
}
