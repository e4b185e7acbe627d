import { Failure } from '#core/failure';
import { PanelActionSchema, StartRequestSchema } from '#core/outside';
import { failureResponse, readBody } from '../answers';
import { depotService } from '../depot-service';
import { startGame } from '../game';
import { library } from '../library';
import { modCatalogue } from '../mod-catalogue';
import { type OutsideWorld, worldOf } from '../outside-world';
import { storefront } from '../storefront';

async function answer(request: Request, service: string, path: string, world: OutsideWorld): Promise<Response> {
  switch (service) {
    case 'depots':
      return depotService(request, path, world);
    case 'catalogue':
      return modCatalogue(request, path, world);
    case 'storefront':
      return storefront(request, path, world);
    case 'game':
      return Response.json(startGame(await readBody(request, StartRequestSchema), library, world.patchReleased));
    case 'panel':
      if (request.method === 'POST') world.act(await readBody(request, PanelActionSchema));
      return Response.json(world.panel());
    default:
      throw new Failure('demo/unknown-file', { path: `${service}/${path}` });
  }
}

interface RouteArguments {
  request: Request;
  params: { service?: string; '*'?: string };
}

async function handle({ request, params }: RouteArguments): Promise<Response> {
  try {
    return await answer(request, params.service ?? '', params['*'] ?? '', worldOf(request));
  } catch (error) {
    return failureResponse(error);
  }
}

export const loader = handle;
export const action = handle;
