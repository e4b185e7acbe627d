import { CHANGES_VERSION, type ChangeSet, stagedPath, type Step } from '#core/changes';
import { type ContentKey, contentKey } from '#core/digest';
import { utf8Length } from '#core/text';
import type { PlanView } from '~/queries';
import { fetchedPath, treePath } from '~/folders';
import { platformSha256 } from '~/remote';

/** The key of a text of at most one piece. */
export async function textKey(text: string): Promise<ContentKey> {
  return contentKey(utf8Length(text), [await platformSha256(text)]);
}

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

/** Writes a whole tree beside the one that is the game's folder, and makes it that. */
export async function layDownSteps(plan: PlanView, from: string, to: string, record: readonly Step[]): Promise<Step[]> {
  const ready = plan.rows.map(({ path, key, source, text }): Step => {
    const place = treePath(to, path);
    if (source.how === 'write') return { do: 'write', text: text!, to: place, key };
    const where = source.how === 'fetched' ? fetchedPath(plan.sha256.get(path)!) : treePath(from, source.path);
    return { do: 'copy', from: where, to: place, key };
  });
  return [...ready, ...record, { do: 'exchange', from, to }];
}
