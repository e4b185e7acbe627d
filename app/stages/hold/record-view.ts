import { failureToWire, isFailure, type WireFailure } from '#core/failure';
import type { RecordRule } from '#core/builds';
import { changesOf, recordOf, recordValue } from '~/changes';
import { canChange, sourceOf } from '~/places';
import type { Install } from '~/store';

/** What is known of the storefront's record of a folder, and what can be done with it from here. */
export interface RecordView {
  /** Undefined where the game's rules know of none. */
  readonly rule: RecordRule | undefined;
  /** Undefined where it was not found. */
  readonly now: { readonly value: string; readonly isReadOnly: boolean | undefined } | undefined;
  readonly failure: WireFailure | undefined;
  readonly canChange: boolean;
  /** Whether the place has a read-only flag that can be set from here. */
  readonly canLock: boolean;
}

/** As far as it can be read where nothing can be changed: only the record in the game's folder itself. */
async function lookedAt(install: Install, rule: RecordRule): Promise<RecordView['now']> {
  if (install.record) return undefined;
  const { reader, root } = await sourceOf(install, install.tree);
  const bytes = await reader.read(root === '' ? rule.file : `${root}/${rule.file}`);
  const { readValue } = await import('#core/record');
  return { value: readValue(new TextDecoder().decode(bytes), rule), isReadOnly: undefined };
}

export async function recordView(install: Install): Promise<RecordView> {
  const record = await recordOf(install);
  const changes = await canChange(install.place);
  const view = { rule: record?.rule, canChange: changes, canLock: changes && install.place.kind !== 'picked' };
  if (!record) return { ...view, now: undefined, failure: undefined };
  try {
    const now = changes ? await recordValue(changesOf(install).disk, record) : await lookedAt(install, record.rule);
    return { ...view, now, failure: undefined };
  } catch (error) {
    if (!isFailure(error)) throw error;
    // That nothing lies there is said in other words.
    const failure = isFailure(error, 'folder/not-found') ? undefined : failureToWire(error);
    return { ...view, now: undefined, failure };
  }
}
