import type { RecordRule } from '#core/builds';
import type { ChangeSet, Step } from '#core/changes';
import { changeSet, changesOf, recordOf, recordSteps } from '~/changes';
import { getInstall } from '~/store';
import type { JobContext } from '../job-context';
import { noteChange } from './note-change';

/**
 * Changes the storefront's record, and whether it is locked, as one change set; nothing where there is no record.
 * @param more steps that are of the same set
 * @throws Failure `record/not-as-ruled`
 */
export async function editRecord(
  context: JobContext,
  { what, facts }: Pick<ChangeSet, 'what' | 'facts'>,
  change: (text: string, rule: RecordRule) => Promise<string>,
  locked: boolean,
  more: readonly Step[] = [],
): Promise<void> {
  const { id } = context;
  const install = await getInstall(context.install);
  const changes = changesOf(install);
  const record = await recordOf(install);
  context.phase('Changing the storefront’s record', 0, 0);
  if (await changes.read(id)) await changes.run(context, id, 'on');
  else {
    // Browsers cannot lock what lies in a folder that was picked.
    const canLock = install.place.kind !== 'picked';
    const ofRecord = await recordSteps(id, changes.disk, record, change, canLock ? locked : undefined);
    const steps = [...ofRecord, ...more];
    if (steps.length === 0) return;
    await changes.run(context, id, 'on', changeSet(id, what, facts, steps));
  }
  if (record?.inGame) await noteChange(install.id, changes, id);
}

/** Takes an edit of the record back, as far as it came. */
export async function takeBackEdit(context: JobContext): Promise<void> {
  const install = await getInstall(context.install);
  const changes = changesOf(install);
  if (await changes.read(context.id)) await changes.run(context, context.id, 'back');
  // What is known of the folder follows, as when it was made.
  if ((await recordOf(install))?.inGame) await noteChange(install.id, changes, context.id);
  await changes.carryOut(context, { act: 'let-go', set: context.id });
}
