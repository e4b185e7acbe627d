import { Failure } from '#core/failure';
import { fileName, isBelow } from '#core/paths';
import { sourceAt } from '~/places';
import { broadcast, type Elsewhere, getInstall, type Install, updateInstall } from '~/store';
import type { FolderOffer } from './offers';

const LETTERS = 'abcdefghijklmnopqrstuvwxyz';

/** A name that none before it had, so that an old change set never means another folder. */
export const newBesideName = (): string =>
  `own${[...crypto.getRandomValues(new Uint8Array(10))].map((byte) => LETTERS[byte % LETTERS.length]).join('')}`;

/** Whether a served folder is the game's, or lies in it: its files are told by the game's rules then. */
const isInGame = ({ place }: Install, { root, folder }: { readonly root: string; readonly folder: string }): boolean =>
  place.kind === 'served' &&
  isBelow(`${[root, folder].filter(Boolean).join('/')}/`, [place.root, place.folder].filter(Boolean).join('/'));

/**
 * Where a folder lies that a person pointed at, outside the game's.
 * @throws Failure `folder/nested` for one in the game's folder
 */
export async function pointedAt(id: string, offer: FolderOffer): Promise<Elsewhere['at']> {
  if (offer.kind !== 'picked' && offer.kind !== 'served') throw new Failure('folder/gone');
  const at: Elsewhere['at'] =
    offer.kind === 'picked'
      ? { kind: 'picked', handle: offer.handle }
      : { kind: 'served', root: offer.root, folder: offer.folder };
  if (at.kind === 'served' && isInGame(await getInstall(id), at))
    throw new Failure('folder/nested', { path: at.folder });
  return at;
}

/**
 * Notes a folder outside the game's that has files of the player's.
 * @throws Failure `folder/nested` for one in the game's folder, `folder/*`, `served/*` where it cannot be read; nothing is noted
 *   then
 */
export async function pointAtElsewhere(id: string, kind: Elsewhere['kind'], offer: FolderOffer): Promise<void> {
  const at = await pointedAt(id, offer);
  await (await sourceAt(at)).reader.list();
  const title = fileName(offer.name);
  const name = newBesideName();
  await updateInstall(id, (now) => ({ ...now, elsewhere: [...(now.elsewhere ?? []), { name, kind, title, at }] }));
  broadcast({ type: 'changed' });
}

/** Leaves such a folder alone from now on. */
export async function forgetElsewhere(id: string, name: string): Promise<void> {
  await updateInstall(id, (now) => ({ ...now, elsewhere: (now.elsewhere ?? []).filter((one) => one.name !== name) }));
  broadcast({ type: 'changed' });
}

/** Notes whether a cloud service synchronises such a folder. */
export async function noteSynced(id: string, name: string, isSynced: boolean): Promise<void> {
  await updateInstall(id, (now) => ({
    ...now,
    elsewhere: (now.elsewhere ?? []).map(({ synced: _, ...one }) =>
      one.name === name && isSynced ? { ...one, synced: true as const } : one,
    ),
  }));
  broadcast({ type: 'changed' });
}
