import { LAY_DOWN_WAYS, type LayDownWay } from '#core/assemble';
import { servedStore } from '~/folders';
import { servedToken } from '~/remote';
import type { InstallPlace } from '~/store';
import { canChange } from './can-change';

const ONE_BY_ONE: readonly LayDownWay[] = ['in-place', 'in-parts'];

/**
 * How a target may be laid down at a place. Folders that were picked cannot be moved, nor can folders be moved to another
 * volume, so nothing is swapped there.
 */
export async function layDownWays(place: InstallPlace): Promise<readonly LayDownWay[]> {
  if (place.kind === 'picked') return ONE_BY_ONE;
  if (place.kind !== 'served' || !(await canChange(place))) return LAY_DOWN_WAYS;
  return (await servedStore({ ...place, token: servedToken() }).state()).swaps ? LAY_DOWN_WAYS : ONE_BY_ONE;
}
