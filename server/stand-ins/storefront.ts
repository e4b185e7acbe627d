import { Readable } from 'node:stream';
import { asBuild, asDepot, type BuildLabel, newestBuild, type Ownership } from '#core/builds';
import { Failure } from '#core/failure';
import { fileHref } from '#core/fetch';
import {
  type InstallRecord,
  PackRequestSchema,
  RecordSchema,
  type SeedFile,
  type SeedList,
  type StorefrontAnswer,
} from '#core/outside';
import { GAME, PLAYER_OWNERSHIP, PLAYER_WEIGHTS } from '#demo';
import { readBody } from '../http/body';
import { assertMethod } from '../http/guard';
import { bytesResponse } from './bytes-response';
import { gameFile } from './depot-service';
import { library } from './library';
import { ACCOUNT, type OutsideWorld } from './outside-world';

const BASE = '/stand-ins/storefront/';
/** Where an install's record lies, beside its folder. */
const RECORD_PATH = 'quayline/record.json';
const MAX_BODY = 64 << 10;

const filesBase = (build: BuildLabel, depot: string): string => `/stand-ins/storefront/files/${build}/${depot}/`;

/** Stand-in for the storefront Quayline: keeps an install at the newest build of its branch, as its record says. */
export async function storefront(request: Request, path: string, world: OutsideWorld): Promise<Response> {
  if (path === 'look') {
    assertMethod(request, 'POST');
    return Response.json(look(await readBody(request, RecordSchema, MAX_BODY), world));
  }
  if (path === 'pack') {
    assertMethod(request, 'POST');
    return packResponse(request);
  }
  assertMethod(request, 'GET', 'HEAD');
  if (path === 'first-install') return Response.json(firstInstall());
  return storefrontFile(request, path);
}

/** A file as the storefront puts it down, whoever asks. @throws Failure `demo/unknown-file` */
function storefrontFile(request: Request, path: string): Response {
  const [kind, ...rest] = path.split('/');
  if (kind === 'player') return playerFile(request, rest.join('/'));
  const [build = '', depot = '', ...file] = rest;
  if (kind !== 'files') throw new Failure('demo/unknown-file', { path });
  return gameFile(request, asBuild(build), asDepot(depot), file.join('/'));
}

/** Several files in one answer, one after the other in the order in which they were asked for. */
async function packResponse(request: Request): Promise<Response> {
  const { hrefs } = await readBody(request, PackRequestSchema, MAX_BODY);
  // All are found before the first is sent.
  const parts = hrefs.map((href) => storefrontFile(new Request(request.url), pathOf(href)));
  const length = parts.reduce((sum, { headers }) => sum + Number(headers.get('Content-Length')), 0);
  async function* bytes(): AsyncGenerator<Uint8Array> {
    for (const { body } of parts) yield* body as unknown as AsyncIterable<Uint8Array>;
  }
  return new Response(Readable.toWeb(Readable.from(bytes(), { objectMode: false })) as ReadableStream, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'Content-Length': String(length),
      'Cache-Control': 'no-store, no-transform',
    },
  });
}

/** @throws Failure `request/malformed` for an address that cannot be decoded */
function pathOf(href: string): string {
  try {
    return decodeURIComponent(href.slice(BASE.length));
  } catch (cause) {
    throw new Failure('request/malformed', { what: 'address', found: href }, { cause });
  }
}

function gameFiles(build: BuildLabel, ownership: Ownership): SeedFile[] {
  return library
    .laid(build, ownership)
    .map(({ path, size, depot }) => ({ path, size, href: fileHref(filesBase(build, depot), path) }));
}

function firstInstall(): SeedList {
  const build = asBuild('3.1.1');
  const byPath = new Map(gameFiles(build, PLAYER_OWNERSHIP).map((file) => [file.path, file]));
  for (const { path, bytes, modified } of library.player) {
    byPath.set(path, { path, size: bytes().length, href: fileHref('/stand-ins/storefront/player/', path), modified });
  }
  const depots = new Set(library.laid(build, PLAYER_OWNERSHIP).map(({ depot }) => depot));
  return {
    install: GAME.id,
    title: GAME.title,
    folder: 'Quayline/Ferrywake',
    recordPath: RECORD_PATH,
    record: { game: GAME.id, branch: 'main', branchCode: '', build, updates: 'by-itself', depots: [...depots] },
    ownership: PLAYER_OWNERSHIP,
    weights: [...PLAYER_WEIGHTS],
    files: [...byPath.values()],
  };
}

function playerFile(request: Request, path: string): Response {
  const file = library.player.find((f) => f.path === path);
  if (!file) throw new Failure('demo/unknown-file', { path });
  return bytesResponse(request, file.bytes());
}

/** Looks at a record as the storefront does each day, and says what it wants to do with the folder. */
function look(record: InstallRecord, world: OutsideWorld): StorefrontAnswer {
  const index = library.index(world.patchReleased);
  const branch = index.branches.find(({ name }) => name === record.branch);
  if (branch?.needsCode && record.branchCode !== ACCOUNT.branchCode) return { action: 'nothing', why: 'code' };
  const newest = newestBuild(index, record.branch);
  if (newest === undefined || newest === record.build) return { action: 'nothing', why: 'newest' };
  if (record.updates === 'when-asked' && !world.ignoresSetting) return { action: 'nothing', why: 'setting' };
  const now = new Map(library.laid(record.build, PLAYER_OWNERSHIP).map(({ path, key }) => [path, key]));
  const next = library.laid(newest, PLAYER_OWNERSHIP);
  const nextPaths = new Set(next.map(({ path }) => path));
  return {
    action: 'update',
    build: newest,
    record: { ...record, build: newest, updates: 'by-itself' },
    write: next
      .filter(({ path, key }) => now.get(path) !== key)
      .map(({ path, size, sha256: digest, depot }) => ({
        path,
        size,
        sha256: digest,
        href: fileHref(filesBase(newest, depot), path),
      })),
    remove: [...now.keys()].filter((path) => !nextPaths.has(path)),
  };
}
