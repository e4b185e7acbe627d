import { type InstallRecord, RecordSchema } from '#core/hold';
import { parseJson } from '#core/json';
import type { Folder, FolderReader } from '#core/folders';
import type { Step } from '#core/changes';
import { editSteps } from './plans';
import { RECORD_PATH } from '~/folders';

/** The storefront's record of an install. @throws Failure `folder/not-found`, `json/*` */
export async function readRecord(disk: Pick<FolderReader, 'read'>): Promise<InstallRecord> {
  return parseJson(new TextDecoder().decode(await disk.read(RECORD_PATH)), RecordSchema, RECORD_PATH);
}

/** A record as it is written. */
export const recordText = (record: InstallRecord): string => JSON.stringify(record, null, 2);

/**
 * Steps that change the storefront's record. None where there is no record.
 * @param readOnly whether it is to be locked afterwards; as it is, where that is left out
 * @throws Failure `json/*`
 */
export async function recordSteps(
  set: string,
  disk: Pick<Folder, 'stat' | 'read' | 'isReadOnly'>,
  change: (now: InstallRecord) => InstallRecord,
  readOnly?: boolean,
): Promise<Step[]> {
  if (!(await disk.stat(RECORD_PATH))) return [];
  const text = new TextDecoder().decode(await disk.read(RECORD_PATH));
  const now = parseJson(text, RecordSchema, RECORD_PATH);
  const after = change(now);
  const isReadOnly = await disk.isReadOnly(RECORD_PATH);
  const changed = JSON.stringify(after) === JSON.stringify(now) ? text : recordText(after);
  return editSteps(set, { path: RECORD_PATH, text, isReadOnly }, changed, readOnly ?? isReadOnly);
}

/** Whether the storefront's record stops updates, and is locked; nothing is said where there is no record. */
export async function recordMeans(
  disk: Pick<Folder, 'stat' | 'read' | 'isReadOnly'>,
): Promise<{ setting?: boolean; lock?: boolean }> {
  if (!(await disk.stat(RECORD_PATH))) return {};
  return {
    setting: (await readRecord(disk)).updates === 'when-asked',
    lock: await disk.isReadOnly(RECORD_PATH),
  };
}
