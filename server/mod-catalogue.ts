import { Failure } from '#core/failure';
import { DEMO_SEED, modFileBytes } from '#demo';
import { fileResponse } from './answers';
import { library, sha256 } from './library';
import type { OutsideWorld } from './outside-world';

/** Stand-in for a mod catalogue: what mods there are, and their files, open to everyone. */
export function modCatalogue(request: Request, path: string, world: OutsideWorld): Response {
  if (path === 'index.json') return Response.json(library.catalogue(world.patchReleased));
  const [kind, mod = '', release = '', ...rest] = path.split('/');
  if (kind !== 'files') throw new Failure('demo/unknown-file', { path });
  const file = rest.join('/');
  const bytes = modFileBytes(DEMO_SEED, mod, release, file);
  return fileResponse(request, { path: file, size: bytes.length, sha256: sha256(bytes) }, (start, end) =>
    bytes.slice(start, end),
  );
}
