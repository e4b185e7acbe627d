import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { RecordSchema, type StorefrontAnswer } from '#core/outside';
import { browserDisk, INSTALL_DISK, treePath } from '~/folders';
import { getInstall, updateInstall } from '~/store';
import { storefrontLooks } from '~/remote';

/*
 * What others do to the folder behind Regressum's back. It goes through the same disk and its locks, and leaves no
 * journal, as in life.
 */

/**
 * Lets the storefront look at the install as it does each day.
 * @throws Failure `folder/read-only` when it wants to update and cannot write its record
 */
export async function askStorefront(installId: string): Promise<StorefrontAnswer> {
  const disk = browserDisk(INSTALL_DISK(installId));
  const { record } = await getInstall(installId);
  if (record?.kind !== 'disk') throw new Failure('folder/not-found', { path: 'record' });
  const { path } = record;
  const text = new TextDecoder().decode(await disk.read(path));
  const answer = await storefrontLooks(parseJson(text, RecordSchema, path));
  if (answer.action === 'update' && (await disk.isReadOnly(path))) {
    throw new Failure('folder/read-only', { path });
  }
  return answer;
}

/** Appends a line to the first table in the folder, as a hasty hand does. @returns its path */
export async function changeAFile(installId: string): Promise<string> {
  const { tree } = await getInstall(installId);
  const disk = browserDisk(INSTALL_DISK(installId));
  const [table] = await disk.list(treePath(tree, 'tables'));
  if (!table) throw new Failure('folder/not-found', { path: 'tables' });
  const text = new TextDecoder().decode(await disk.read(table.path));
  await disk.writeWhole(table.path, new TextEncoder().encode(`${text}r9999,Hasty edit,1,1,1,1\n`));
  await updateInstall(installId, (now) => ({ ...now, changedAt: Date.now() }));
  return table.path.slice(treePath(tree).length + 1);
}
