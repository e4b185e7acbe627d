import { Failure } from '#core/failure';
import { fileName, folderOf } from '#core/paths';
import { changesOf, recordOf, recordValue } from '~/changes';
import { broadcast, getInstall, type Install, updateInstall } from '~/store';

/**
 * Notes where the storefront's record of an install lies, below a root that the server was started with.
 * @param path of the file below the root
 * @throws Failure `folder/not-found`, `record/not-as-ruled`, `served/*`; nothing is noted then
 */
export async function pointAtRecord(id: string, root: string, path: string): Promise<void> {
  const record: Install['record'] = { kind: 'served', root, folder: folderOf(path), name: fileName(path) };
  const install = { ...(await getInstall(id)), record };
  if (!(await recordValue(changesOf(install).disk, await recordOf(install))))
    throw new Failure('folder/not-found', { path });
  await updateInstall(id, (now) => ({ ...now, record }));
  broadcast({ type: 'changed' });
}

/** Has the record looked for in the game's folder again. */
export async function forgetRecord(id: string): Promise<void> {
  await updateInstall(id, ({ record: _, ...now }) => now);
  broadcast({ type: 'changed' });
}
