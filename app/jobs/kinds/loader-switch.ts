import { PIECE_SIZE } from '#core/digest';
import { isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { getGame, type StoredSurvey } from '~/store';

/**
 * Whether a loader's own switch has mods be loaded, by the rules of the game; undefined where they know of none, or it cannot be
 * read as they say.
 * @param root of the game's folder, below the reader's
 */
export async function loaderSwitchOf(
  reader: Pick<FolderReader, 'read'>,
  root: string,
  game: string,
): Promise<Pick<StoredSurvey, 'loaderSwitch'>> {
  const { loaderSwitch: rule } = (await getGame(game)).rules;
  if (!rule) return {};
  try {
    const bytes = await reader.read(root === '' ? rule.file : `${root}/${rule.file}`, 0, PIECE_SIZE);
    const { readValue } = await import('#core/record');
    return { loaderSwitch: readValue(new TextDecoder().decode(bytes), rule) === rule.on ? 'on' : 'off' };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return {};
  }
}
