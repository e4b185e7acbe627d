import { CHANGES_VERSION, type ChangeSet, type Step } from '#core/changes';
import { contentKey, type ContentKey } from '#core/digest';
import type { JobContext } from '~/jobs/job-context';
import { onServer } from '~/changes/on-server';
import { servedFolder } from '~/folders/served-folder';

/* What the page does to lay a served folder down, for bench/assemble. */

interface Place {
  readonly root: string;
  readonly folder: string;
  readonly token: string;
}

const context = {
  pausing: <T>(work: (signal: AbortSignal) => Promise<T>) => work(new AbortController().signal),
  add: () => undefined,
};

/** A plan that lays all files of the folder down beside, as they are. */
export async function planOf(place: Place): Promise<ChangeSet> {
  const folder = servedFolder({ kind: 'served', ...place });
  const files = await folder.list();
  const keys = new Map<string, ContentKey>();
  for (let i = 0; i < files.length; i += 500) {
    const some = files.slice(i, i + 500);
    const outcomes = await folder.hash(some, new AbortController().signal, () => undefined);
    some.forEach(({ path }, j) => {
      const outcome = outcomes[j] as unknown as { index: number; size: number; pieces: string[] };
      keys.set(path, contentKey(outcome.size, outcome.pieces));
    });
  }
  const steps: Step[] = files.map(({ path }) => ({
    ...{ do: 'copy', from: `trees/t1/${path}`, to: `trees/t2/${path}` },
    key: keys.get(path)!,
  }));
  steps.push({ do: 'exchange', from: 't1', to: 't2' });
  return { version: CHANGES_VERSION, id: 'bench', at: 0, what: 'lay-down', facts: {}, steps };
}

export const layDown = (place: Place, plan: ChangeSet): Promise<void> =>
  onServer({ kind: 'served', ...place }).run(context as unknown as JobContext, plan.id, 'on', plan);

/** Takes it back and lets it go, so that it can be laid down again. */
export async function clear(place: Place, plan: ChangeSet): Promise<void> {
  const changes = onServer({ kind: 'served', ...place });
  await changes.run(context as unknown as JobContext, plan.id, 'back');
  await changes.letGo(context as unknown as JobContext, plan.id);
}
