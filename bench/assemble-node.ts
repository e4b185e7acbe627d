import { CHANGES_VERSION, type ChangeSet, type Step } from '#core/changes';
import { contentName, contentPath, makeReference } from '#core/contents';
import { contentKey, type ContentKey } from '#core/digest';
import { platformSha256 } from '~/remote/sha256';
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
  await changes.carryOut(context as unknown as JobContext, { act: 'let-go', set: plan.id });
}

/** Keeps the contents of these files of a folder, as if they had been fetched. */
export async function keep(place: Place, plan: ChangeSet, paths: ReadonlySet<string>): Promise<void> {
  const from = plan.steps.flatMap((step): [ContentKey, string][] =>
    step.do === 'copy' && paths.has(step.from.slice('trees/t1/'.length)) ? [[step.key, step.from]] : [],
  );
  const reason = { kind: 'build', game: 'g', build: 'b' } as const;
  const sha256 = platformSha256;
  const reference = await makeReference(
    { id: 'build-b', at: 0, reason },
    from.map(([key]) => key),
    { sha256 },
  );
  const changes = onServer({ kind: 'served', ...place });
  await changes.carryOut(context as unknown as JobContext, { act: 'keep', reference, from });
}

/**
 * A plan that puts files right which differ, from what is kept of them.
 * @param plan of the folder as it was
 * @param now of the folder as it is
 */
export async function planRepair(plan: ChangeSet, now: ChangeSet): Promise<ChangeSet> {
  const keys = new Map(now.steps.flatMap((step) => (step.do === 'copy' ? [[step.from, step.key] as const] : [])));
  const ready: Step[] = [];
  const placed: Step[] = [];
  for (const [i, step] of plan.steps.entries()) {
    const before = step.do === 'copy' && keys.get(step.from);
    if (step.do !== 'copy' || !before || before === step.key) continue;
    const staged = `staged/repair/${i}.dat`;
    ready.push({
      do: 'copy',
      from: contentPath(await contentName(step.key, platformSha256)),
      to: staged,
      key: step.key,
    });
    placed.push({ do: 'place', from: staged, to: step.from, key: step.key, before });
  }
  return { ...plan, id: 'repair', steps: [...ready, ...placed] };
}
