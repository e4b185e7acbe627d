import { assertGoing } from '#core/calls';
import { failureToWire, isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { decideBy, distanceOf, type Difference, summaryOf } from '#core/merge';
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

const nothing = {
  ...{ differences: [], count: { clean: 0, decided: 0, open: 0 } },
  did: { ours: [], theirs: [] },
  distance: 0,
};

type Bytes = Uint8Array<ArrayBuffer>;

const readThree = ({ three }: MergeWish, { from }: Ports): Promise<Bytes[]> =>
  Promise.all(three.map(({ at, size }) => from.read(at, 0, size)));

function mergeOne({ path, hints }: MergeWish, [base, ours, theirs]: readonly Bytes[], task: MergeTask): MergedFile {
  try {
    const merge = mergeBytes([base!, ours!, theirs!], hints, decideBy(path, task.decided, task.rules));
    if (!merge) return { path, kind: undefined, ...nothing, merged: undefined };
    const { kind, key, columns, differences, merged } = merge;
    const conflicts = differences.filter(({ by }) => by === 'conflict');
    const decided = conflicts.filter(({ decision }) => decision !== undefined).length;
    return {
      ...{ path, kind, ...(key && { key }), ...(columns && { columns }), differences: shown(differences), merged },
      distance: distanceOf(differences.filter(({ ours, base: was }) => ours !== was)),
      count: { clean: differences.length - conflicts.length, decided, open: conflicts.length - decided },
      did: { ours: summaryOf(differences, 'ours'), theirs: summaryOf(differences, 'theirs') },
    };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return { path, kind: undefined, ...nothing, merged: undefined, failure: failureToWire(error) };
  }
}

/** Merges files one after the other; while one is merged, the next is read. */
export async function mergeFiles(task: MergeTask, ports: Ports): Promise<{ files: readonly MergedFile[] }> {
  const files: MergedFile[] = [];
  const read = (i: number): Promise<Bytes[]> | undefined => {
    const wish = task.files[i];
    const reading = wish && readThree(wish, ports);
    // What fails is told when its turn comes.
    reading?.catch(() => undefined);
    return reading;
  };
  let coming = read(0);
  for (const [i, wish] of task.files.entries()) {
    assertGoing(ports.signal);
    const three = (await coming)!;
    coming = read(i + 1);
    files.push(mergeOne(wish, three, task));
    ports.progress({ kind: 'bytes', files: 1, bytes: wish.three.reduce((sum, { size }) => sum + size, 0) });
  }
  return { files };
}
