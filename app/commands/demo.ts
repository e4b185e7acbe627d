import { isFailure } from '#core/failure';
import { jobs } from '~/jobs';
import { askSource, firstInstall } from '~/remote';
import {
  FIRST_PROFILE,
  addGame,
  addInstall,
  type GameSource,
  listGames,
  listInstalls,
  putTold,
  SERVICE_SOURCE,
} from '~/store';

/**
 * Opens the demo: the game of the stand-ins, whose folder is laid out on the browser disk where it is not there yet.
 * @returns the id of its install
 * @throws Failure `service/*`
 */
export async function openDemo(): Promise<string> {
  // Two tabs may both come here first: one of them adds the install and starts its job.
  return navigator.locks.request('regressum-demo', async () => {
    const known = new Set((await listGames()).filter(({ sources }) => sources.some(isService)).map(({ id }) => id));
    const here = (await listInstalls()).find(({ game, place }) => known.has(game) && place.kind === 'browser-disk');
    if (here) return here.id;
    const { install: id, title, folder, ownership, weights, recordPath } = await firstInstall();
    const told = await askSource(SERVICE_SOURCE, { index: undefined, catalogue: undefined });
    const { game } = told.index!.value;
    // The game may be here still, of a folder that was removed from the list.
    await addGame({ ...game, sources: [SERVICE_SOURCE] }).catch(unlessThere);
    await putTold(game.id, SERVICE_SOURCE.id, told);
    await addInstall({
      ...{ id, game: game.id, title, folder, ownership, weights },
      place: { kind: 'browser-disk' },
      record: { kind: 'disk', path: recordPath },
      tree: 't1',
      profile: FIRST_PROFILE,
      changedAt: Date.now(),
      arrived: false,
    });
    await jobs.start('seed', id);
    return id;
  });
}

const isService = ({ kind }: GameSource): boolean => kind === 'service';

function unlessThere(error: unknown): void {
  if (!isFailure(error, 'source/exists')) throw error;
}
