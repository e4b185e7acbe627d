import { asMod, type ModId } from '#core/builds';
import { isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { readModList } from '#core/mod-list';
import { takenOver } from '#core/mods';
import { getGame, getHold, getInstall, type Install, type StoredSurvey, updateInstall } from '~/store';

/** Bytes of a list of mods that is kept as it lies; what is written has to stay one piece. */
const MOST_LIST = 512 << 10;

function decode(bytes: Uint8Array): string {
  try {
    // The mark of its encoding is kept, to be written again.
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    // The order counts, though what is not UTF-8 in comments is lost when it is written anew; a change keeps the file itself.
    return new TextDecoder().decode(bytes);
  }
}

/**
 * A folder's list of mods to load, and where it has nothing on, what it was when it last had: an update may have emptied it.
 * Nothing, where there is no list that can be read.
 * @param root of the game's folder, below the reader's
 */
export async function modListOf(
  reader: Pick<FolderReader, 'read'>,
  root: string,
  game: string,
  before: StoredSurvey | undefined,
): Promise<Pick<StoredSurvey, 'modList' | 'lastModList'>> {
  const { loadOrder: path, listSyntax } = (await getGame(game)).rules;
  if (path === undefined) return {};
  const bytes = await reader.read(root === '' ? path : `${root}/${path}`).catch((error: unknown) => {
    if (isFailure(error)) return new Uint8Array(0);
    throw error;
  });
  const modList = bytes.length > MOST_LIST ? '' : decode(bytes);
  if (readModList(modList, listSyntax).length > 0) return { modList };
  const last = [before?.modList, before?.lastModList].find(
    (text) => text !== undefined && readModList(text, listSyntax).length > 0,
  );
  return { modList, ...(last !== undefined && { lastModList: last }) };
}

/** An install with the order of its mods as the folder's list has it. What a hold sheet decided stays as the sheet has it. */
function withListed(now: Install, listed: readonly ModId[]): Install {
  const { order, target } = now;
  const mine = order && takenOver(order, listed);
  const targets = target?.decidedBy === 'hold-sheet' ? target.order : target?.order && takenOver(target.order, listed);
  if (mine === order && targets === target?.order) return now;
  return { ...now, ...(mine && { order: mine }), ...(targets && { target: { ...target!, order: targets } }) };
}

/**
 * Takes over the order that a person or a mod gave the list outside, since it was read before; in a held folder nothing. While
 * the list is as it was, an order that was decided here and is not written yet stays decided. A list that lacks mods, or has
 * none, says nothing about these.
 */
export async function takeOverOrder(
  { install, modList = '' }: Pick<StoredSurvey, 'install' | 'modList'>,
  before: StoredSurvey | undefined,
): Promise<void> {
  if (before?.modList === undefined || before.modList === modList || (await getHold(install))) return;
  const { listSyntax } = (await getGame((await getInstall(install)).game)).rules;
  const listed = readModList(modList, listSyntax).map(asMod);
  await updateInstall(install, (now) => withListed(now, listed));
}
