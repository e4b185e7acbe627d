import { LAY_DOWN_WAYS, type LayDownWay } from '#core/assemble';
import type { InstallPlace } from '~/store';
import { stateToChange } from './can-change';

const ONE_BY_ONE: readonly LayDownWay[] = ['in-place', 'in-parts'];

/**
 * How a target may be laid down at a place. Folders that were picked cannot be moved, nor can folders be moved to another
 * volume, so nothing is swapped there.
 */
export async function layDownWays(place: InstallPlace): Promise<readonly LayDownWay[]> {
  if (place.kind === 'picked') return ONE_BY_ONE;
  const state = place.kind === 'served' ? await stateToChange(place) : undefined;
  return state?.swaps === false ? ONE_BY_ONE : LAY_DOWN_WAYS;
}
