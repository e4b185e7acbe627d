import { Failure } from '#core/failure';
import { PanelActionSchema, StartRequestSchema } from '#core/outside';
import { readBody } from '../http/body';
import { assertMethod } from '../http/guard';
import { depotService } from './depot-service';
import { startGame } from './game';
import { library } from './library';
import { modCatalogue } from './mod-catalogue';
import { inWorldOf, type OutsideWorld } from './outside-world';
import { passedAround, passedLog } from './passed-around';
import { storefront } from './storefront';

/** The made-up game's folder has some 1,400 files. */
const MAX_START_BODY = 2 << 20;
const MAX_PANEL_BODY = 4 << 10;

async function answer(request: Request, service: string, path: string, world: OutsideWorld): Promise<Response> {
  switch (service) {
    case 'depots':
      return depotService(request, path, world);
    case 'catalogue':
      return modCatalogue(request, path, world);
    case 'archives':
      return passedAround(request, path);
    case 'logs':
      return passedLog(request, path);
    case 'storefront':
      return storefront(request, path, world);
    case 'game': {
      assertMethod(request, 'POST');
      const start = await readBody(request, StartRequestSchema, MAX_START_BODY);
      return Response.json(startGame(start, library, { afterPatch: world.patchReleased, count: world.nextStart() }));
    }
    case 'panel':
      assertMethod(request, 'GET', 'HEAD', 'POST');
      if (request.method === 'POST') world.act(await readBody(request, PanelActionSchema, MAX_PANEL_BODY));
      return Response.json(world.panel());
    default:
      throw new Failure('demo/unknown-file', { path: `${service}/${path}` });
  }
}

/** Answers for the made-up outside world: depots, catalogue, storefront, game, and the panel that turns it. */
export const standIns = (request: Request, service: string, path: string): Promise<Response> =>
  inWorldOf(request, (world) => answer(request, service, path, world));
