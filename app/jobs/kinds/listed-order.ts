import { isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { readModList } from '#core/mod-list';
import { getGame } from '~/store';

/**
 * The mods that a folder's list has on, as they stand in it; none where there is no list that can be read.
 * @param root of the game's folder, below the reader's
 */
export async function listedOrder(reader: Pick<FolderReader, 'read'>, root: string, game: string): Promise<string[]> {
  const { loadOrder: path, listSyntax } = (await getGame(game)).rules;
  if (path === undefined) return [];
  const bytes = await reader.read(root === '' ? path : `${root}/${path}`).catch((error: unknown) => {
    if (isFailure(error)) return new Uint8Array(0);
    throw error;
  });
  return readModList(new TextDecoder().decode(bytes), listSyntax);
}
