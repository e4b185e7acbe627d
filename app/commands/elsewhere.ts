import { Failure } from '#core/failure';
import { fileName } from '#core/paths';
import { sourceAt } from '~/places';
import { broadcast, type Elsewhere, updateInstall } from '~/store';
import type { FolderOffer } from './offers';

/**
 * Notes a folder outside the game's that has files of the player's.
 * @throws Failure `folder/*`, `served/*` where it cannot be read; nothing is noted then
 */
export async function pointAtElsewhere(id: string, kind: Elsewhere['kind'], offer: FolderOffer): Promise<void> {
  if (offer.kind !== 'picked' && offer.kind !== 'served') throw new Failure('folder/gone');
  const at: Elsewhere['at'] =
    offer.kind === 'picked'
      ? { kind: 'picked', handle: offer.handle }
      : { kind: 'served', root: offer.root, folder: offer.folder };
  await (await sourceAt(at)).reader.list();
  const title = fileName(offer.name);
  await updateInstall(id, (now) => ({ ...now, elsewhere: [...(now.elsewhere ?? []), { kind, title, at }] }));
  broadcast({ type: 'changed' });
}

/** Leaves such a folder alone from now on. */
export async function forgetElsewhere(id: string, place: number): Promise<void> {
  await updateInstall(id, (now) => ({ ...now, elsewhere: (now.elsewhere ?? []).filter((_, i) => i !== place) }));
  broadcast({ type: 'changed' });
}
