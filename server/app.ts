import { mkdirSync } from 'node:fs';
import { createRequestHandler } from 'react-router';
import { failureResponse } from './http/failures';
import { assertMethod, assertOwnHost, assertOwnPage } from './http/guard';
import { COMMON_HEADERS } from './http/policy';
import { Failure } from '#core/failure';
import { type HeldRoot, holdRoot } from './served/below';
import { FROM } from '#core/sources';
import { answerFrom } from './from/from';
import { FolderThreads } from './served/folder-threads';
import { ServedChanges } from './served/served-changes';
import { ServedFolders } from './served/served-folders';
import { assertToken } from './served/token';

/** What a start of the server was told. */
export interface Settings {
  /** Folders whose files may be read. */
  readonly roots: readonly string[];
  /** What whoever reads them has to know. */
  readonly token: string | undefined;
  /** Whether the folders may be changed. */
  readonly write?: boolean;
  /** Where the stores of all games lie; each in its game's folder where it is left out. */
  readonly store?: string | undefined;
}

export type Handler = (request: Request) => Promise<Response>;

/** The folders that are there; one that is not is said to be missing, and not served. */
function held(roots: readonly string[]): HeldRoot[] {
  return roots.flatMap((path) => {
    try {
      return [holdRoot(path)];
    } catch (error) {
      console.error(`Cannot serve ${path}: ${error instanceof Error ? error.message : String(error)}`);
      return [];
    }
  });
}

/** @throws where the store's folder is not there: without it nothing may be changed */
function heldStore(path: string): HeldRoot {
  mkdirSync(path, { recursive: true });
  return holdRoot(path);
}

/** The modules of what works beside the server's own thread, in JavaScript. */
export interface Threads {
  /** Looks at folders. */
  readonly looking: URL;
  /** Changes folders. */
  readonly changing: URL;
}

/** The path of an address, decoded. @throws Failure `request/malformed` */
function decodedPath(url: URL): string {
  try {
    return decodeURIComponent(url.pathname);
  } catch (cause) {
    throw new Failure('request/malformed', { what: 'address', found: url.pathname }, { cause });
  }
}

/**
 * All that the server answers but its static files: served folders, sources elsewhere, the stand-ins for the outside world,
 * and the pages.
 * @param build of the pages; without it there are none
 */
export function createApp(
  settings: Settings,
  threads: Threads,
  build?: Parameters<typeof createRequestHandler>[0],
): Handler {
  const roots = held(settings.roots);
  const store = settings.write && settings.store ? heldStore(settings.store) : undefined;
  const changes = settings.write ? new ServedChanges(threads, store) : undefined;
  const served = new ServedFolders(roots, new FolderThreads(threads.looking), changes);
  const pages = build && createRequestHandler(build, 'production');
  const answer: Handler = async (request) => {
    assertOwnHost(request);
    const path = decodedPath(new URL(request.url));
    const [, first = '', ...rest] = path.split('/');
    if (first === 'served') {
      if (roots.length === 0) throw new Failure('served/off');
      assertOwnPage(request);
      assertToken(request, settings.token);
      return served.answer(request, rest.join('/'));
    }
    if (first === FROM) {
      assertOwnPage(request);
      assertToken(request, settings.token);
      assertMethod(request, 'GET', 'HEAD');
      const { pathname, search } = new URL(request.url);
      return answerFrom(request, pathname + search);
    }
    if (first === 'stand-ins') {
      assertOwnPage(request);
      // Who serves a game of their own never needs the demo's world, which takes a while to make.
      const { standIns } = await import('./stand-ins/stand-ins');
      return standIns(request, rest[0] ?? '', rest.slice(1).join('/'));
    }
    assertMethod(request, 'GET', 'HEAD');
    if (!pages) throw new Failure('demo/unknown-file', { path });
    return pages(request);
  };
  return async (request) => {
    let response: Response;
    try {
      response = await answer(request);
    } catch (error) {
      response = failureResponse(error);
    }
    for (const [name, value] of Object.entries(COMMON_HEADERS)) response.headers.set(name, value);
    return response;
  };
}
