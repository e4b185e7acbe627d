import { availableParallelism } from 'node:os';
import { Crew } from '#core/calls';
import { Failure } from '#core/failure';
import type { HeldRoot } from './below';
import type { LookWork, Results, Task } from './look-protocol';
import { serverThread } from './server-thread';

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

/** A few threads that look at served folders. */
export class FolderThreads {
  readonly #crew: Crew<LookWork>;
  #nextList = 1;
  #lists = 0;

  /** @param file the thread's module, in JavaScript */
  constructor(file: URL) {
    this.#crew = new Crew(Math.min(MAX_THREADS, availableParallelism()), serverThread(file, THREAD_MEMORY));
  }

  /** @throws Failure as the task does; `job/worker-died` */
  run<T extends Task>(task: T): Promise<Results[T['do']]> {
    return this.#crew.run(task);
  }

  /**
   * The entries below a folder, some lines at a time as they are taken. It has to be ended.
   * @throws Failure `folder/*`, `served/*` before the first; `service/failed` where too many lists are under way
   */
  async list(root: HeldRoot, folder: string): Promise<LineSource> {
    if (this.#lists >= MAX_LISTS) throw new Failure('service/failed', { path: folder });
    // A list lives in the thread that has begun it.
    const thread = this.#crew.leastBusy();
    const list = this.#nextList++;
    this.#lists += 1;
    thread.kept += 1;
    let ended = false;
    const end = async (): Promise<void> => {
      if (ended) return;
      ended = true;
      this.#lists -= 1;
      thread.kept -= 1;
      if (thread.isAlive) await thread.run({ do: 'list-end', list });
    };
    try {
      await thread.run({ do: 'list', list, root, folder });
    } catch (error) {
      await end();
      throw error;
    }
    return { next: () => thread.run({ do: 'list-on', list }), end };
  }

  close(): Promise<void> {
    return this.#crew.end();
  }
}
