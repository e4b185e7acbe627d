import { addOnRefused, asBuild, asDepot, type BuildLabel, type DepotId, newestBuild } from '#core/builds';
import { Failure } from '#core/failure';
import { type SessionAnswer, SignInSchema } from '#core/outside';
import { readBody } from '../http/body';
import { fileResponse } from '../http/file-response';
import { assertMethod } from '../http/guard';
import { bytesResponse } from './bytes-response';
import { readBundlePath } from './bundles';
import { library, sha256 } from './library';
import { ACCOUNT, type OutsideWorld, type Session } from './outside-world';

const MAX_SIGN_IN_BODY = 4 << 10;

/** Stand-in for a depot service: an index, Metalink manifests, and files for those who are signed in. */
export async function depotService(request: Request, path: string, world: OutsideWorld): Promise<Response> {
  if (world.faults.delayMs > 0) await new Promise((resolve) => setTimeout(resolve, world.faults.delayMs));
  if (path === 'session') {
    assertMethod(request, 'POST');
    return signIn(request, world);
  }
  assertMethod(request, 'GET', 'HEAD');
  if (path === 'index.json') return Response.json(library.index(world.patchReleased));
  const [kind, build = '', depot = '', ...rest] = path.split('/');
  if (kind === 'manifests') return manifestResponse(request, asBuild(build), depot);
  if (kind === 'bundles') return bundleResponse(request, path.slice('bundles/'.length), world);
  if (kind !== 'files') throw new Failure('demo/unknown-file', { path });
  assertMayRead(sessionOf(request, world), world, asBuild(build), asDepot(depot));
  return gameFile(request, asBuild(build), asDepot(depot), rest.join('/'), world);
}

const sessionOf = (request: Request, world: OutsideWorld): Session | undefined =>
  world.session(request.headers.get('Authorization')?.replace('Bearer ', '') ?? '');

async function signIn(request: Request, world: OutsideWorld): Promise<Response> {
  const { name, passphrase, code, branchCode } = await readBody(request, SignInSchema, MAX_SIGN_IN_BODY);
  world.assertMayTry();
  if (name !== ACCOUNT.name || passphrase !== ACCOUNT.passphrase) {
    world.noteWrongTry();
    throw new Failure('service/refused', { what: 'name or passphrase' });
  }
  if (branchCode && branchCode !== ACCOUNT.branchCode) throw new Failure('service/refused', { what: 'branch code' });
  const answer = (body: SessionAnswer): Response => Response.json(body);
  if (code === undefined) {
    world.sendCode();
    return answer({ step: 'code-sent' });
  }
  if (!world.takesCode(code)) {
    throw new Failure('service/refused', { what: 'one-time code' });
  }
  const branches = branchCode ? ['trial'] : [];
  const token = world.openSession(new Set(branches));
  return answer({ step: 'signed-in', token, name, addOns: ACCOUNT.addOns, branches });
}

function manifestResponse(request: Request, build: BuildLabel, file: string): Response {
  const made = library.manifest(build, asDepot(file.replace(/\.meta4$/, '')));
  if (made.manifest.paths.length === 0) throw new Failure('demo/unknown-file', { path: `${build}/${file}` });
  const response = bytesResponse(request, new TextEncoder().encode(made.text));
  response.headers.set('Content-Type', 'application/metalink4+xml');
  return response;
}

function assertMayRead(session: Session | undefined, world: OutsideWorld, build: BuildLabel, id: DepotId): void {
  if (!session) throw new Failure('service/sign-in-needed', { depot: id });
  const index = library.index(world.patchReleased);
  const depot = index.depots.find((d) => d.id === id);
  if (depot && addOnRefused(depot, ACCOUNT.addOns)) throw new Failure('service/not-owned', { depot: depot.title });
  const locked = index.branches.find((branch) => branch.build === build && branch.needsCode);
  if (locked && !session.branches.has(locked.name)) throw new Failure('service/refused', { what: 'branch code' });
}

/** A frame after another, or their index, which tells no byte of the game and is told to everybody. */
async function bundleResponse(request: Request, path: string, world: OutsideWorld): Promise<Response> {
  const name = readBundlePath(path);
  if (!name) throw new Failure('demo/unknown-file', { path });
  if (name.kind === 'zst') assertMayRead(sessionOf(request, world), world, name.build, name.depot);
  const { index, bytes, framesOf } = await library.bundles.get(name);
  if (name.kind === 'json') return bytesResponse(request, new TextEncoder().encode(index));
  const fault = world.nextFault(path);
  if (fault === 'fail') throw new Failure('service/failed', { path });
  if (fault === 'gone') throw new Failure('demo/unknown-file', { path });
  // Of a file that is wrong there, what was made of it is wrong as well: a frame whose head is, is none.
  const { spoilt } = world.faults;
  const wrong = spoilt === '' ? [] : framesOf(spoilt);
  const read = (start: number, end: number): Uint8Array => {
    const some = bytes.slice(start, end);
    for (const at of wrong) if (at >= start && at < end) some[at - start]! ^= 0x20;
    return some;
  };
  const file = { size: bytes.length, etag: `"${sha256(bytes)}"`, read };
  // Whoever changes the files under way has other frames by then.
  return slowResponse(request, file, { world, isToCorrupt: fault !== 'none' });
}

/** Bytes of a file of the game. With a world, its faults apply. */
export function gameFile(
  request: Request,
  build: BuildLabel,
  depot: DepotId,
  path: string,
  world?: OutsideWorld,
): Response {
  const fault = world?.nextFault(path) ?? 'none';
  if (fault === 'fail') throw new Failure('service/failed', { path });
  if (fault === 'gone') throw new Failure('demo/unknown-file', { path, build, depot });
  // Whoever changes the files under way has those of the newest build there.
  const from = fault === 'changed' ? newestBuild(library.index(true), 'main')! : build;
  const { size, sha256: digest } = library.file(from, depot, path);
  const read = (start: number, end: number): Uint8Array => library.world.read(from, depot, path, start, end);
  return slowResponse(request, { size, etag: `"${digest}"`, read }, { world, isToCorrupt: fault === 'corrupt' });
}

/** Answers as slowly as a world has it, and with a wrong byte where that is asked for. */
function slowResponse(
  request: Request,
  { size, etag, read }: { size: number; etag: string; read: (start: number, end: number) => Uint8Array },
  { world, isToCorrupt }: { world: OutsideWorld | undefined; isToCorrupt: boolean },
): Response {
  const { bytesPerSecond = 0, wholeOnly = false } = world?.faults ?? {};
  let isRight = !isToCorrupt;
  return fileResponse(wholeOnly ? withoutRange(request) : request, {
    ...{ size, etag },
    async read(start, wanted) {
      const end = bytesPerSecond > 0 ? Math.min(wanted, start + Math.max(1, bytesPerSecond >> 2)) : wanted;
      if (bytesPerSecond > 0)
        await new Promise((resolve) => setTimeout(resolve, (1000 * (end - start)) / bytesPerSecond));
      const bytes = read(start, end);
      // One byte of an answer, in its first chunk.
      if (!isRight && bytes.length > 0) bytes[bytes.length >> 1]! ^= 0x20;
      isRight = true;
      return bytes;
    },
  });
}

/** The same request, for all of the file. */
function withoutRange(request: Request): Request {
  const headers = new Headers(request.headers);
  headers.delete('Range');
  return new Request(request.url, { method: request.method, headers, signal: request.signal });
}
