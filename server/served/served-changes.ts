import { createHash } from 'node:crypto';
import { z } from 'zod';
import { Crew, type Done, Member, type Spawn } from '#core/calls';
import { STORE_FOLDER } from '#core/changes';
import { Failure, failureToWire } from '#core/failure';
import { ServedChangeSchema } from '#core/served';
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
const NameSchema = z.string().regex(/^[0-9a-f]{64}$/);
const SizeSchema = z.coerce.number().int().nonnegative().max(Number.MAX_SAFE_INTEGER);

/** @throws Failure `request/malformed` */
function parsed<Schema extends z.ZodType>(schema: Schema, given: string): z.output<Schema> {
  const { data, success } = schema.safeParse(given);
  if (!success) throw new Failure('request/malformed', { what: 'parameter', found: given });
  return data;
}

/**
 * Changes the folders below the roots, by change sets alone: no request writes a file of a game. One change at a time runs
 * on a disk.
 */
export class ServedChanges {
  readonly #busy = new Map<string, Promise<unknown>>();
  readonly #spawn: Spawn<ChangeWork>;
  /** For what is short. */
  readonly #shared: Crew<ChangeWork>;

  /**
   * @param threads the modules of threads that change folders and that look at them, in JavaScript
   * @param store where the stores of all games are; each lies in its game's folder where there is none
   */
  constructor(
    threads: { readonly changing: URL; readonly looking: URL },
    private readonly store: HeldRoot | undefined,
  ) {
    const data: ChangeThreadData = { looking: threads.looking.href };
    this.#spawn = serverThread(threads.changing, THREAD_MEMORY, data);
    this.#shared = new Crew(1, this.#spawn);
  }

  placeOf(game: HeldRoot, folder: string): DiskPlace {
    const parts = partsBelow(folder);
    if (parts.includes(STORE_FOLDER)) throw new Failure('served/outside', { path: folder });
    if (!this.store) return { game, folder, store: game, storeFolder: [...parts, STORE_FOLDER].join('/') };
    // Two games never share one, whatever their folders are called.
    const name = createHash('sha256')
      .update([game.path, ...parts].join('/'))
      .digest('hex')
      .slice(0, 16);
    return { game, folder, store: this.store, storeFolder: `${parts.at(-1) ?? 'game'}-${name}` };
  }

  /** Does what is short, after what was asked before. @throws Failure as the work does */
  #work<Task extends Exclude<ChangeTask, { do: 'change' }>>(
    place: DiskPlace,
    task: Task,
  ): Promise<ChangeResults[Task['do']]> {
    return this.#shared.run({ place, ...task }) as Promise<ChangeResults[Task['do']]>;
  }

  /** @throws Failure as the change does; `job/cancelled` when `signal` stops it */
  async #run(
    place: DiskPlace,
    task: Extract<ChangeTask, { do: 'change' }>,
    signal: AbortSignal,
    progress: (done: Done) => void,
  ): Promise<void> {
    const thread = new Member(this.#spawn);
    try {
      // Who went away while waiting in line begins nothing.
      await thread.run({ place, ...task }, { signal, progress });
    } finally {
      await thread.end();
    }
  }

  /** One at a time on a disk: who comes later waits, such as a page that was loaded anew while its change ends a batch. */
  async #alone<T>(place: DiskPlace, work: () => Promise<T>): Promise<T> {
    const disk = `${place.store.path}/${place.storeFolder}`;
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

  /** Progress and the outcome as JSON, one a line; a reader who goes away stops the work between two steps. */
  #change(place: DiskPlace, task: Extract<ChangeTask, { do: 'change' }>, asked: AbortSignal): Response {
    const gone = new AbortController();
    const signal = AbortSignal.any([asked, gone.signal]);
    const stream = new ReadableStream<string>({
      start: (controller) => {
        const tell = (value: unknown): void => {
          if (!gone.signal.aborted) controller.enqueue(`${JSON.stringify(value)}\n`);
        };
        void this.#alone(place, () => this.#run(place, task, signal, tell))
          .then(
            () => tell({ done: true }),
            (error: unknown) => {
              const { code, facts } = failureToWire(error);
              tell({ code, facts });
            },
          )
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
    switch (what) {
      case 'state': {
        assertMethod(request, 'GET');
        const place = here();
        const { current } = await this.#work(place, { do: 'state' });
        return Response.json({ write: true, current, store: `${place.store.path}/${place.storeFolder}` });
      }
      case 'journal':
        assertMethod(request, 'GET');
        return Response.json(await this.#work(here(), { do: 'journal', set: searchParams.get('set') ?? undefined }));
      case 'store':
        assertMethod(request, 'GET');
        return Response.json(await this.#work(here(), { do: 'list', below: given('below') }));
      case 'change': {
        assertMethod(request, 'POST');
        const { root, folder, ...change } = await readBody(request, ServedChangeSchema, MAX_PLAN);
        return this.#change(this.placeOf(rootAt(root), folder), { do: 'change', ...change }, request.signal);
      }
      case 'arrival': {
        assertMethod(request, 'PUT', 'POST', 'DELETE');
        const place = here();
        if (request.method === 'DELETE') await this.#work(place, { do: 'drop-arrived' });
        else {
          const name = parsed(NameSchema, given('name'));
          if (request.method === 'POST')
            await this.#work(place, { do: 'arrived', name, size: parsed(SizeSchema, given('size')) });
          else {
            const offset = parsed(SizeSchema, given('offset'));
            await this.#work(place, { do: 'arrive', name, offset, bytes: await readBytes(request, MAX_ARRIVAL) });
          }
        }
        return Response.json({});
      }
      default:
        throw new Failure('demo/unknown-file', { path: what });
    }
  }
}
