import { Failure } from '#core/failure';
import { DEMO_SEED, modFileBytes } from '#demo';
import { assertMethod } from '../http/guard';
import { bytesResponse } from './bytes-response';
import { library } from './library';
import type { OutsideWorld } from './outside-world';

/** Stand-in for a mod catalogue: what mods there are, and their files, open to everyone. */
export function modCatalogue(request: Request, path: string, world: OutsideWorld): Response {
  assertMethod(request, 'GET', 'HEAD');
  if (path === 'index.json') return Response.json(library.catalogue(world.patchReleased));
  const [kind, mod = '', release = '', ...rest] = path.split('/');
  if (kind !== 'files') throw new Failure('demo/unknown-file', { path });
  return bytesResponse(request, modFileBytes(DEMO_SEED, mod, release, rest.join('/')));
}
