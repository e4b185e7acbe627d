import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { PIECE_SIZE } from '#core/digest';
import type { ServedHash, ServedHashRequest } from '#core/served';

type Result =
  Omit<Extract<ServedHash, { size: number }>, 'index'> | Omit<Extract<ServedHash, { code: string }>, 'index'>;

/** A file to hash, and where it lies. */
export type PlacedFile = Omit<ServedHashRequest['files'][number], 'path'> & { readonly place: string };

interface Thread {
  readonly worker: Worker;
  readonly waiting: Map<number, { resolve: (results: Result[]) => void; reject: (error: Error) => void }>;
}

const MAX_THREADS = 4;

/** A few threads that hash files, started when the first file is asked for; the least busy one takes the next. */
export class HashThreads {
  #threads: Thread[] = [];
  #nextId = 1;

  /** The outcomes of these files, in their order. Rejects when the thread dies. */
  hash(files: readonly PlacedFile[]): Promise<Result[]> {
    const most = Math.min(MAX_THREADS, availableParallelism());
    if (this.#threads.length < most) this.#threads.push(this.#start());
    const thread = this.#threads.reduce((least, other) => (other.waiting.size < least.waiting.size ? other : least));
    const id = this.#nextId++;
    return new Promise((resolve, reject) => {
      thread.waiting.set(id, { resolve, reject });
      thread.worker.postMessage({ id, files });
    });
  }

  #start(): Thread {
    // The server is started from the project's folder, with the threads' file beside its source.
    const file = join(process.cwd(), 'server/served/hash-thread.mjs');
    const thread: Thread = { worker: new Worker(file, { workerData: { pieceSize: PIECE_SIZE } }), waiting: new Map() };
    thread.worker.unref();
    thread.worker.on('message', ({ id, results }: { id: number; results: Result[] }) => {
      thread.waiting.get(id)?.resolve(results);
      thread.waiting.delete(id);
    });
    thread.worker.on('error', (error) => {
      this.#threads = this.#threads.filter((other) => other !== thread);
      for (const { reject } of thread.waiting.values()) reject(error);
    });
    return thread;
  }
}
