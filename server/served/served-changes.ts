import { createHash } from 'node:crypto';
import { z } from 'zod';
import { Crew, type Spawn } from '#core/calls';
import { ChangeSetIdSchema, PLACES, STORE_FOLDER } from '#core/changes';
import { type Act, changesShared, contentPath } from '#core/contents';
import { Failure, failureToWire, isFailure } from '#core/failure';
import { isBelow } from '#core/paths';
import {
  ServedArrivalSchema,
  type ServedBeside,
  ServedChangeSchema,
  type ServedFetch,
  ServedFetchSchema,
  ServedFlagsSchema,
  type ServedState,
  ServedInspectionSchema,
} from '#core/served';
import { readBody, readBytes } from '../http/body';
import { assertMethod } from '../http/guard';
import { type HeldRoot, partsBelow } from './below';
import type { ChangeResults, ChangeTask, ChangeThreadData, ChangeWork } from './change-protocol';
import type { DiskPlace } from './node-disk';
import { serverThread } from './server-thread';

/** A plan of two hundred thousand files. */
const MAX_PLAN = 64 << 20;
/** What arrives is put down this much at a time. */
const MAX_ARRIVAL = 8 << 20;
/** Works with a plan of two hundred thousand files, and with a piece of a file. */
const THREAD_MEMORY = { maxYoungGenerationSizeMb: 16, maxOldGenerationSizeMb: 512 };
/** While one waits for the disk, another hashes. */
const FETCHING_THREADS = 2;
/** Changes that go on at the same time, on disks of their own. */
const CHANGING_THREADS = 8;
/** A thread that has ended a change waits so long for the next one: to start it takes as long as many a change. Then its memory goes. */
const THREAD_WAITS_MS = 10_000;
/** A fetch of thousands of files, or of one of a hundred gigabytes by its frames. */
const MAX_FETCH = 64 << 20;
const NameSchema = z.string().regex(/^[0-9a-f]{64}$/);
const SizeSchema = z.coerce.number().int().nonnegative().max(Number.MAX_SAFE_INTEGER);

/** @throws Failure `request/malformed` */
function parsed<Schema extends z.ZodType>(schema: Schema, given: string): z.output<Schema> {
  const { data, success } = schema.safeParse(given);
  if (!success) throw new Failure('request/malformed', { what: 'parameter', found: given });
  return data;
}

function rootIfServed(path: string, rootAt: (path: string) => HeldRoot): HeldRoot | undefined {
  try {
    return rootAt(path);
  } catch (error) {
    if (isFailure(error, 'served/outside')) return undefined;
    throw error;
  }
}

/**
 * Folders beside the game's. One that is below no root any more, or no folder beside, is left out: what reaches into it is refused.
 * @param contentsOf where the contents lie that a folder's store keeps
 */
function besidesOf(
  beside: ServedBeside,
  game: string,
  rootAt: (path: string) => HeldRoot,
  contentsOf: (root: HeldRoot, folder: string) => { root: HeldRoot; path: string },
): DiskPlace['beside'] {
  return Object.fromEntries(
    Object.entries(beside).flatMap(([name, { root, folder, contents }]) => {
      const held = rootIfServed(root, rootAt);
      if (!held) return [];
      if (contents) return [[name, { ...contentsOf(held, folder), onlyRead: true }]];
      const parts = partsBelow(folder);
      const path = [held.path, ...parts].join('/');
      // What is the game's folder, in it, or a store's is reached as that alone.
      if (parts.includes(STORE_FOLDER) || isBelow(`${path}/`, game.replace(/\/$/, ''))) return [];
      return [[name, { root: held, path: parts.join('/') }]];
    }),
  );
}

/**
 * Changes the folders below the roots, by change sets alone: no request writes a file of a game. One change at a time runs
 * on a disk.
 */
export class ServedChanges {
  readonly #busy = new Map<string, Promise<unknown>>();
  readonly #changing: Crew<ChangeWork>;
  #resting: NodeJS.Timeout | undefined;
  /** For what is short. */
  readonly #shared: Crew<ChangeWork>;
  readonly #fetching: Crew<ChangeWork>;

  /**
   * @param threads the modules of threads that change folders and that look at them, in JavaScript
   * @param store where the stores of all games are; each lies in its game's folder where there is none
   */
  constructor(
    threads: { readonly changing: URL; readonly looking: URL },
    private readonly store: HeldRoot | undefined,
  ) {
    const data: ChangeThreadData = { looking: threads.looking.href };
    const spawn: Spawn<ChangeWork> = serverThread(threads.changing, THREAD_MEMORY, data);
    this.#changing = new Crew(CHANGING_THREADS, spawn);
    this.#shared = new Crew(1, spawn);
    this.#fetching = new Crew(FETCHING_THREADS, spawn);
  }

  placeOf(game: HeldRoot, folder: string, beside?: DiskPlace['beside']): DiskPlace {
    const parts = partsBelow(folder);
    if (parts.includes(STORE_FOLDER)) throw new Failure('served/outside', { path: folder });
    const inside = [...parts, STORE_FOLDER].join('/');
    if (!this.store) return { game, folder, beside, store: game, storeFolder: inside, sharedFolder: inside };
    // Two games never share one, whatever their folders are called.
    const name = createHash('sha256')
      .update([game.path, ...parts].join('/'))
      .digest('hex')
      .slice(0, 16);
    return {
      game,
      folder,
      beside,
      store: this.store,
      storeFolder: `${parts.at(-1) ?? 'game'}-${name}`,
      sharedFolder: '',
    };
  }

  /** Where a content of the store lies that has a folder's keepsakes. @throws Failure `request/malformed` */
  contentAt(game: HeldRoot, folder: string, name: string): { root: HeldRoot; path: string } {
    return this.#sharedAt(game, folder, contentPath(parsed(NameSchema, name)));
  }

  /** Where a path lies that is shared by the games of a folder's store. */
  #sharedAt(game: HeldRoot, folder: string, path: string): { root: HeldRoot; path: string } {
    const { store, sharedFolder } = this.placeOf(game, folder);
    return { root: store, path: [sharedFolder, path].filter(Boolean).join('/') };
  }

  /** Does what is short, after what was asked before. @throws Failure as the work does */
  #work<Task extends Exclude<ChangeTask, { do: 'change' | 'inspect' }>>(
    place: DiskPlace,
    task: Task,
  ): Promise<ChangeResults[Task['do']]> {
    return this.#shared.run({ place, ...task }) as Promise<ChangeResults[Task['do']]>;
  }

  /** @throws Failure as the change does; `job/cancelled` when `signal` stops it */
  async #run<Task extends Extract<ChangeTask, { do: 'change' | 'inspect' }>>(
    place: DiskPlace,
    task: Task,
    signal: AbortSignal,
    progress: (done: ChangeWork['progress']) => void = () => undefined,
  ): Promise<ChangeResults[Task['do']]> {
    try {
      // Who went away while waiting in line begins nothing.
      return (await this.#changing.run({ place, ...task }, { signal, progress })) as ChangeResults[Task['do']];
    } finally {
      clearTimeout(this.#resting);
      this.#resting = setTimeout(() => void this.#changing.rest(), THREAD_WAITS_MS).unref();
    }
  }

  /**
   * One at a time on a disk, and on what all games of a store share: who comes later waits, such as a page that was loaded
   * anew while its change ends a batch.
   */
  #inTurn<T>({ store, storeFolder, sharedFolder }: DiskPlace, act: Act, work: () => Promise<T>): Promise<T> {
    const alone = (): Promise<T> => this.#alone(`${store.path}/${storeFolder}`, work);
    return changesShared(act) ? this.#alone(`shared ${store.path}/${sharedFolder}`, alone) : alone();
  }

  async #alone<T>(disk: string, work: () => Promise<T>): Promise<T> {
    const before = this.#busy.get(disk);
    const mine = (async (): Promise<T> => {
      await before?.catch(() => undefined);
      return work();
    })();
    this.#busy.set(disk, mine);
    try {
      return await mine;
    } finally {
      if (this.#busy.get(disk) === mine) this.#busy.delete(disk);
    }
  }

  #change(place: DiskPlace, task: Extract<ChangeTask, { do: 'change' }>, asked: AbortSignal): Response {
    return this.#told(asked, async (signal, tell) => {
      await this.#inTurn(place, task.act, () => this.#run(place, task, signal, tell));
      return { done: true };
    });
  }

  /** Fetches into the store, beside whatever else is done on the disk: what arrives is nobody's yet. */
  #fetch(place: DiskPlace, { files, frames, token, bytesPerSecond }: ServedFetch, request: Request): Response {
    const cookie = request.headers.get('Cookie');
    const headers = { ...(cookie && { Cookie: cookie }), ...(token && { Authorization: `Bearer ${token}` }) };
    const own = { origin: new URL(request.url).origin, headers };
    const wanted = files.map((file) => ({ ...file, sources: file.sources.map((source) => source ?? undefined) }));
    return this.#told(request.signal, (signal, tell) =>
      this.#fetching.run(
        { do: 'fetch', place, files: wanted, frames, own, bytesPerSecond },
        { signal, progress: tell },
      ),
    );
  }

  /** Progress and the outcome as JSON, one a line; a reader who goes away stops the work between two steps. */
  #told(asked: AbortSignal, work: (signal: AbortSignal, tell: (news: unknown) => void) => Promise<unknown>): Response {
    const gone = new AbortController();
    const signal = AbortSignal.any([asked, gone.signal]);
    const stream = new ReadableStream<string>({
      start: (controller) => {
        const tell = (value: unknown): void => {
          if (!gone.signal.aborted) controller.enqueue(`${JSON.stringify(value)}\n`);
        };
        void work(signal, tell)
          .then(tell, (error: unknown) => {
            const { code, facts } = failureToWire(error);
            tell({ code, facts });
          })
          .then(() => !gone.signal.aborted && controller.close())
          // Who went away in this very moment gets nothing.
          .catch(() => undefined);
      },
      cancel: () => gone.abort(),
    });
    return new Response(stream.pipeThrough(new TextEncoderStream()), {
      headers: { 'Content-Type': 'application/x-ndjson', 'Cache-Control': 'no-store, no-transform' },
    });
  }

  /** @throws Failure `served/*`, `changes/*`, `folder/*`, `json/*`, `request/*` */
  async answer(request: Request, what: string, rootAt: (path: string) => HeldRoot): Promise<Response> {
    const { searchParams } = new URL(request.url);
    const given = (name: string): string => searchParams.get(name) ?? '';
    const here = (): DiskPlace => this.placeOf(rootAt(given('root')), given('folder'));
    const withBeside = ({
      root,
      folder,
      beside,
    }: {
      root: string;
      folder: string;
      beside?: ServedBeside | undefined;
    }) => {
      const game = rootAt(root);
      const contentsOf = (held: HeldRoot, at: string) => this.#sharedAt(held, at, PLACES.contents);
      return this.placeOf(game, folder, beside && besidesOf(beside, `${game.path}/${folder}`, rootAt, contentsOf));
    };
    switch (what) {
      case 'state': {
        assertMethod(request, 'GET');
        const place = here();
        const state = await this.#work(place, { do: 'state' });
        const told: ServedState = {
          write: true,
          ...state,
          store: `${place.store.path}/${place.storeFolder}`,
          inGame: !this.store,
        };
        return Response.json(told);
      }
      case 'journal':
        assertMethod(request, 'GET');
        return Response.json((await this.#work(here(), { do: 'journal', set: given('set') })) ?? null);
      case 'view':
        assertMethod(request, 'GET');
        return Response.json(await this.#work(here(), { do: 'view' }));
      case 'mirror':
        assertMethod(request, 'GET');
        return Response.json((await this.#work(here(), { do: 'mirror' })) ?? null);
      case 'keepsakes':
        assertMethod(request, 'GET');
        return Response.json(await this.#work(here(), { do: 'keepsakes' }));
      case 'keepsake':
        assertMethod(request, 'GET');
        return Response.json(
          (await this.#work(here(), { do: 'keepsake', id: parsed(ChangeSetIdSchema, given('id')) })) ?? null,
        );
      case 'sources':
        assertMethod(request, 'GET');
        return Response.json(
          await this.#work(here(), { do: 'sources', without: searchParams.get('without') ?? undefined }),
        );
      case 'store':
        assertMethod(request, 'GET');
        return Response.json(await this.#work(here(), { do: 'list', below: given('below') }));
      case 'change': {
        assertMethod(request, 'POST');
        const { act, ...where } = await readBody(request, ServedChangeSchema, MAX_PLAN);
        return this.#change(withBeside(where), { do: 'change', act }, request.signal);
      }
      case 'fetch': {
        assertMethod(request, 'POST');
        const wanted = await readBody(request, ServedFetchSchema, MAX_FETCH);
        return this.#fetch(withBeside(wanted), wanted, request);
      }
      case 'flags': {
        assertMethod(request, 'POST');
        const { paths, ...where } = await readBody(request, ServedFlagsSchema, MAX_PLAN);
        return Response.json(await this.#work(withBeside(where), { do: 'read-only', paths }));
      }
      case 'inspect': {
        assertMethod(request, 'POST');
        const { inspection, ...where } = await readBody(request, ServedInspectionSchema, MAX_PLAN);
        // It may read as much as a change does: what is short must not wait for it.
        return Response.json(await this.#run(withBeside(where), { do: 'inspect', inspection }, request.signal));
      }
      case 'arrival': {
        assertMethod(request, 'PUT', 'POST');
        const place = here();
        if (request.method === 'POST')
          await this.#work(place, { do: 'arrived', ...(await readBody(request, ServedArrivalSchema, MAX_ARRIVAL)) });
        else {
          const [name, offset] = [parsed(NameSchema, given('name')), parsed(SizeSchema, given('offset'))];
          await this.#work(place, { do: 'arrive', name, offset, bytes: await readBytes(request, MAX_ARRIVAL) });
        }
        return Response.json({});
      }
      default:
        throw new Failure('demo/unknown-file', { path: what });
    }
  }
}
