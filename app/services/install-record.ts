import { type InstallRecord, RecordSchema } from '#core/hold';
import { parseJson } from '#core/json';
import type { Folder } from '#core/folders';
import { RECORD_PATH } from '~/folders';

/** The storefront's record of an install. @throws Failure `folder/not-found`, `json/*` */
export async function readRecord(disk: Folder): Promise<InstallRecord> {
  return parseJson(new TextDecoder().decode(await disk.read(RECORD_PATH)), RecordSchema, RECORD_PATH);
}

/** @throws Failure `folder/read-only` when it is locked */
export async function writeRecord(disk: Folder, record: InstallRecord): Promise<void> {
  await disk.writeWhole(RECORD_PATH, new TextEncoder().encode(JSON.stringify(record, null, 2)));
}
