import { Failure } from '#core/failure';
import { sourceOf } from '~/places';
import { type Given, query } from '~/queries';
import { addTrial, broadcast, getGame, getInstall } from '~/store';

/**
 * Notes what a log of the game's own tells of its last start, as of when that was.
 * @param modified of the log's file, milliseconds since 1970
 * @throws Failure `list/encoding`, `log/says-neither`, `log/too-old` for one from before the folder was changed last
 */
export async function noteStart(id: string, log: Given, name: string, modified: number): Promise<void> {
  await addTrial({ install: id, ...(await query('startAnswer', id, log, name, modified)) });
  broadcast({ type: 'changed' });
}

/**
 * As {@link noteStart}, of the log that lies where the game's rules say.
 * @throws Failure also `folder/*` where there is none
 */
export async function noteLastStart(id: string): Promise<void> {
  const install = await getInstall(id);
  const { log } = (await getGame(install.game)).rules;
  if (!log) throw new Failure('folder/not-found', { path: 'log' });
  const { reader, root } = await sourceOf(install, install.tree);
  const path = root === '' ? log.file : `${root}/${log.file}`;
  const entry = await reader.stat(path);
  if (!entry) throw new Failure('folder/not-found', { path: log.file });
  await noteStart(id, await reader.read(path), log.file, entry.modified);
}
