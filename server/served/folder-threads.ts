import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { Failure, failureFromWire } from '#core/failure';
import type { HeldRoot } from './below';
import type { FromThread, Results, Task, ToThread } from './protocol';

interface Call {
  readonly resolve: (result: Results[Task['do']]) => void;
  readonly reject: (error: Error) => void;
}

interface Thread {
  readonly worker: Worker;
  readonly waiting: Map<number, Call>;
  /** Lists that were started in it and are not at their end. */
  lists: number;
}

/** Lines that come some at a time. */
export interface LineSource {
  /** Undefined behind the last. */
  next(): Promise<string | undefined>;
  /** Frees what it holds; more than once does nothing. */
  end(): Promise<void>;
}

const MAX_THREADS = 4;
/** A thread holds a batch of lines or digests at the most. */
const THREAD_MEMORY = { maxYoungGenerationSizeMb: 8, maxOldGenerationSizeMb: 128 };
/** Lists that are under way at a time in all; each holds folders open. */
const MAX_LISTS = 32;

/** A few threads that look at served folders, started when they are first asked; the least busy one takes the next task. */
export class FolderThreads {
  #threads: Thread[] = [];
  #nextId = 1;
  #lists = 0;

  /** @param file the thread's module, in JavaScript */
  constructor(private readonly file: URL) {}

  /** @throws Failure as the task does; `folder/failed` when the thread dies */
  run<T extends Task>(task: T): Promise<Results[T['do']]> {
    return this.#post(this.#leastBusy(), task);
  }

  /**
   * The entries below a folder, some lines at a time as they are taken. It has to be ended.
   * @throws Failure `folder/*`, `served/*` before the first; `service/failed` where too many lists are under way
   */
  async list(root: HeldRoot, folder: string): Promise<LineSource> {
    if (this.#lists >= MAX_LISTS) throw new Failure('service/failed', { path: folder });
    const thread = this.#leastBusy();
    const list = this.#nextId++;
    this.#lists += 1;
    thread.lists += 1;
    let ended = false;
    const end = async (): Promise<void> => {
      if (ended) return;
      ended = true;
      this.#lists -= 1;
      thread.lists -= 1;
      if (this.#threads.includes(thread)) await this.#post(thread, { do: 'list-end', list });
    };
    try {
      await this.#post(thread, { do: 'list', list, root, folder });
    } catch (error) {
      await end();
      throw error;
    }
    return { next: () => this.#post(thread, { do: 'list-on', list }), end };
  }

  async close(): Promise<void> {
    await Promise.all(this.#threads.map(({ worker }) => worker.terminate()));
  }

  #post<T extends Task>(thread: Thread, task: T): Promise<Results[T['do']]> {
    if (!this.#threads.includes(thread)) return Promise.reject(new Failure('folder/failed', { path: '' }));
    const id = this.#nextId++;
    return new Promise((resolve, reject) => {
      thread.waiting.set(id, { resolve: resolve as Call['resolve'], reject });
      thread.worker.postMessage({ id, task } satisfies ToThread);
    });
  }

  #leastBusy(): Thread {
    if (this.#threads.length < Math.min(MAX_THREADS, availableParallelism())) this.#threads.push(this.#start());
    const work = ({ waiting, lists }: Thread): number => waiting.size + lists;
    return this.#threads.reduce((least, other) => (work(other) < work(least) ? other : least));
  }

  #start(): Thread {
    const thread: Thread = {
      // Descriptors that a thread opens are the server's, which closes them.
      worker: new Worker(this.file, { trackUnmanagedFds: false, resourceLimits: THREAD_MEMORY }),
      waiting: new Map(),
      lists: 0,
    };
    thread.worker.unref();
    thread.worker.on('message', (answer: FromThread) => {
      const call = thread.waiting.get(answer.id);
      thread.waiting.delete(answer.id);
      if (answer.type === 'done') call?.resolve(answer.result);
      else call?.reject(failureFromWire(answer.failure));
    });
    thread.worker.on('error', (cause) => {
      this.#threads = this.#threads.filter((other) => other !== thread);
      for (const { reject } of thread.waiting.values()) reject(new Failure('folder/failed', {}, { cause }));
      thread.waiting.clear();
    });
    return thread;
  }
}
