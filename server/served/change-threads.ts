import { Worker } from 'node:worker_threads';
import { Failure, failureFromWire } from '#core/failure';
import type { ChangeOrder, ChangeResults, ChangeWork, FromChangeThread } from './change-protocol';
import type { DiskPlace } from './node-disk';

export type Progress = (done: { files: number; bytes: number }) => void;

interface Call {
  readonly resolve: (result: ChangeResults[ChangeWork['do']]) => void;
  readonly reject: (failure: Failure) => void;
  readonly progress: Progress | undefined;
}

/** Works with a plan of two hundred thousand files, and with a piece of a file. */
const MEMORY = { maxYoungGenerationSizeMb: 16, maxOldGenerationSizeMb: 512 };

/** A thread that works on games' disks, one order after the other. */
export class ChangeThread {
  readonly #worker: Worker;
  readonly #calls = new Map<number, Call>();
  #nextId = 1;
  isAlive = true;

  /** @param file the thread's module, in JavaScript */
  constructor(file: URL) {
    // Descriptors of the roots are the server's, which closes them.
    this.#worker = new Worker(file, { trackUnmanagedFds: false, resourceLimits: MEMORY });
    this.#worker.unref();
    this.#worker.on('message', (message: FromChangeThread) => this.#hear(message));
    this.#worker.on('error', (cause) => this.#die(cause));
    this.#worker.on('exit', () => this.#die(new Error('the thread ended')));
  }

  /** @throws Failure as the work does; `job/cancelled` when `signal` stops it; `folder/failed` when the thread dies */
  order<Work extends ChangeWork>(
    place: DiskPlace,
    work: Work,
    { signal, progress }: { signal?: AbortSignal; progress?: Progress } = {},
  ): Promise<ChangeResults[Work['do']]> {
    const order: ChangeOrder = { id: this.#nextId++, place, work, stop: new SharedArrayBuffer(4) };
    const stop = (): void => void Atomics.store(new Int32Array(order.stop), 0, 1);
    signal?.addEventListener('abort', stop);
    if (signal?.aborted) stop();
    return new Promise<ChangeResults[Work['do']]>((resolve, reject) => {
      this.#calls.set(order.id, { resolve: resolve as Call['resolve'], reject, progress });
      this.#worker.postMessage(order);
    }).finally(() => signal?.removeEventListener('abort', stop));
  }

  async end(): Promise<void> {
    await this.#worker.terminate();
  }

  #hear(message: FromChangeThread): void {
    const call = this.#calls.get(message.id);
    if (message.type === 'progress') return call?.progress?.(message);
    this.#calls.delete(message.id);
    if (message.type === 'done') call?.resolve(message.result);
    else call?.reject(failureFromWire(message.failure));
  }

  #die(cause: Error): void {
    this.isAlive = false;
    for (const { reject } of this.#calls.values())
      reject(new Failure('folder/failed', { message: cause.message }, { cause }));
    this.#calls.clear();
  }
}
