import { contentKey, PIECE_SIZE } from '#core/digest';
import { isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { utf8Length } from '#core/text';
import { platformSha256 } from '~/remote';
import { getGame, type StoredSurvey } from '~/store';

/**
 * Whether a loader's own switch has mods be loaded, by the rules of the game, and what its file would be with the switch
 * otherwise; nothing where they know of none, or it cannot be read as they say.
 * @param root of the game's folder, below the reader's
 */
export async function loaderSwitchOf(
  reader: Pick<FolderReader, 'read'>,
  root: string,
  game: string,
): Promise<Pick<StoredSurvey, 'loaderSwitch' | 'switched'>> {
  const { loaderSwitch: rule } = (await getGame(game)).rules;
  if (!rule) return {};
  try {
    const bytes = await reader.read(root === '' ? rule.file : `${root}/${rule.file}`, 0, PIECE_SIZE);
    const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
    const { switchedTexts, readValue } = await import('#core/record');
    const loaderSwitch = readValue(text, rule) === rule.on ? 'on' : 'off';
    const switched = switchedTexts(text, rule).map(async (other) =>
      contentKey(utf8Length(other), [await platformSha256(other)]),
    );
    return { loaderSwitch, switched: await Promise.all(switched) };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return {};
  }
}
