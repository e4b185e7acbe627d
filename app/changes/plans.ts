import {
  CHANGES_VERSION,
  type ChangeSet,
  type Leaves,
  stagedPath,
  type Step,
  textKey as keyOfText,
} from '#core/changes';
import type { ContentKey } from '#core/digest';
import type { PlanView } from '~/queries';
import { treePath } from '~/folders';
import { platformSha256 } from '~/remote';

/** The key of a text of at most one piece. */
export const textKey = (text: string): Promise<ContentKey> => keyOfText(text, platformSha256);

export const changeSet = (
  id: string,
  what: ChangeSet['what'],
  facts: ChangeSet['facts'],
  steps: readonly Step[],
): ChangeSet => ({ version: CHANGES_VERSION, id, at: Date.now(), what, facts, steps: [...steps] });

/** A file as it lies there, before it is edited. */
export interface EditedFile {
  readonly path: string;
  readonly text: string;
  readonly isReadOnly: boolean;
}

/**
 * Writes a text over another one, lifting the file's read-only flag for that.
 * @param readOnly what the flag is to be afterwards
 */
export async function editSteps(set: string, file: EditedFile, text: string, readOnly: boolean): Promise<Step[]> {
  const { path, isReadOnly } = file;
  const from = stagedPath(set, 'edit');
  const steps: Step[] = [];
  if (text !== file.text) {
    const key = await textKey(text);
    if (isReadOnly) steps.push({ do: 'flag', path, readOnly: false, before: true });
    steps.push({ do: 'write', text, to: from, key });
    steps.push({ do: 'place', from, to: path, key, before: await textKey(file.text) });
    if (readOnly) steps.push({ do: 'flag', path, readOnly: true, before: false });
  } else if (readOnly !== isReadOnly) steps.push({ do: 'flag', path, readOnly, before: isReadOnly });
  return steps;
}

/** The file's bytes, got ready at a place; the plan says where they come from. */
function readyStep(row: PlanView['rows'][number], from: string, to: string): Step {
  const { key, source, text } = row;
  if (source.how === 'write') return { do: 'write', text: text!, to, key };
  const where = source.how === 'stored' ? source.path : treePath(from, source.path);
  return { do: 'copy', from: where, to, key };
}

/**
 * Changes only the files of a tree that are not as they are to be: what lies in their places, or is not to lie there, is
 * put aside. All that is put in place has been got ready before, so that a failing source changes nothing.
 */
export function inPlaceSteps(set: string, plan: Pick<PlanView, 'rows' | 'found'>, tree: string): Step[] {
  const wanted = new Map(plan.rows.map((row) => [row.path, row]));
  const differ = plan.rows.filter(({ path, key }) => plan.found.get(path) !== key);
  const ready = differ.map((row, i) => readyStep(row, tree, stagedPath(set, i)));
  const gone = [...plan.found].filter(([path]) => !wanted.has(path));
  return [
    ...ready,
    // First what goes: a folder may come to lie where a file was.
    ...gone.map(([path, key]): Step => ({ do: 'take', path: treePath(tree, path), key })),
    ...differ.map(({ path, key }, i): Step => {
      const before = plan.found.get(path) ?? null;
      return { do: 'place', from: stagedPath(set, i), to: treePath(tree, path), key, before };
    }),
  ];
}

/** A plan cut down to some paths. */
export function planOfPart(plan: Pick<PlanView, 'rows' | 'found'>, paths: ReadonlySet<string>): typeof plan {
  return {
    rows: plan.rows.filter(({ path }) => paths.has(path)),
    found: new Map([...plan.found].filter(([path]) => paths.has(path))),
  };
}

/** Whether a set changes files of the one tree, and swaps none. */
export const isInPlace = ({ steps }: ChangeSet): boolean => !steps.some((step) => step.do === 'exchange');

/** The tree that a job makes: of two browsers that lay the same folder down none has the other's. */
export const madeTree = (job: string): string => `t-${job.slice(0, 8)}`;

/**
 * Writes a whole tree beside the one that is the game's folder, and makes it that.
 * @param leaves what lies in the one that is put aside by it
 */
export async function layDownSteps(
  plan: Pick<PlanView, 'rows'>,
  from: string,
  to: string,
  record: readonly Step[],
  leaves: Leaves,
): Promise<Step[]> {
  const ready = plan.rows.map((row) => readyStep(row, from, treePath(to, row.path)));
  return [...ready, ...record, { do: 'exchange', from, to, leaves }];
}
