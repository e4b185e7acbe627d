import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';
import { jobs } from '~/jobs';
import { handOver, type PointedAt } from '~/places';
import { getInstall } from '~/store';
import type { FolderOffer } from './offers';

/** Whether one of two folders is the other, or lies in it. */
const overlap = (a: string, b: string): boolean => a === b || isBelow(a, b) || isBelow(b, a);

/**
 * Looks for depots in a folder that a person points at, and takes what the target wants of them.
 * @param move whether files are moved into the store, where the server has both; else they are copied
 * @throws Failure `job/not-checked-out` while there is no target, `folder/nested` for the game's own folder, where a survey
 *   finds what lies there
 */
export async function bringDepotsOf(
  id: string,
  offer: Exclude<FolderOffer, { kind: 'list' }>,
  move = false,
): Promise<void> {
  const { target, place } = await getInstall(id);
  if (!target) throw new Failure('job/not-checked-out', { what: 'target' });
  if (
    offer.kind === 'served' &&
    place.kind === 'served' &&
    offer.root === place.root &&
    overlap(offer.folder, place.folder)
  )
    throw new Failure('folder/nested', { path: offer.folder });
  let from: PointedAt;
  if (offer.kind === 'handed') {
    from = { kind: 'handed', name: `depots of ${id}` };
    handOver(from.name, offer.files);
  } else if (offer.kind === 'picked') from = { kind: 'picked', handle: offer.handle };
  else from = { kind: 'served', root: offer.root, folder: offer.folder };
  await jobs.start('bring-depots', id, {
    target,
    from,
    move: move && from.kind === 'served' && place.kind === 'served',
  });
}
