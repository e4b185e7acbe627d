import { Failure, failureFromWire } from '#core/failure';
import type { StopSignal } from '#core/folders';
import type { FromWorker, ResultOf, TaskOf, ToWorker, Work } from './messages';

/** A thread as its asker has it: a worker of the browser's, or of the server's. */
export interface Thread<W extends Work> {
  post(message: ToWorker<W>): void;
  end(): void | Promise<unknown>;
}

/**
 * Starts a thread.
 * @param hear what it says
 * @param died is called once, with a reason, when it ends by itself
 */
export type Spawn<W extends Work> = (
  hear: (message: FromWorker<W>) => void,
  died: (reason: string) => void,
) => Thread<W>;

export interface CallOptions<W extends Work> {
  readonly signal?: StopSignal | undefined;
  readonly progress?: ((progress: W['progress']) => void) | undefined;
}

interface Call<W extends Work> {
  readonly resolve: (result: ResultOf<W, TaskOf<W>>) => void;
  readonly reject: (failure: Failure) => void;
  readonly progress: CallOptions<W>['progress'];
}

/** A thread with the calls that it is working on. */
export class Member<W extends Work> {
  readonly #thread: Thread<W>;
  readonly #calls = new Map<number, Call<W>>();
  #nextId = 1;
  /** More that it is busy with, between calls. */
  kept = 0;
  isAlive = true;

  constructor(spawn: Spawn<W>) {
    this.#thread = spawn(
      (message) => this.#hear(message),
      (reason) => this.#die(reason),
    );
  }

  get load(): number {
    return this.#calls.size + this.kept;
  }

  /** @throws Failure as the task does; `job/cancelled` when `signal` stops it; `job/worker-died` */
  run<T extends TaskOf<W>>(task: T, { signal, progress }: CallOptions<W> = {}): Promise<ResultOf<W, T>> {
    if (signal?.aborted) return Promise.reject(new Failure('job/cancelled'));
    if (!this.isAlive) return Promise.reject(new Failure('job/worker-died'));
    const id = this.#nextId++;
    const stop = (): void => this.#thread.post({ type: 'stop', id });
    signal?.addEventListener('abort', stop);
    return new Promise<ResultOf<W, T>>((resolve, reject) => {
      this.#calls.set(id, { resolve: resolve as Call<W>['resolve'], reject, progress });
      this.#thread.post({ type: 'do', id, task });
    }).finally(() => signal?.removeEventListener('abort', stop));
  }

  /** Ends the thread, whatever it is doing. */
  async end(): Promise<void> {
    this.#die('ended');
    await this.#thread.end();
  }

  #hear(message: FromWorker<W>): void {
    const call = this.#calls.get(message.id);
    // What comes after the call was settled is dropped.
    if (!call) return;
    if (message.type === 'progress') return call.progress?.(message.progress);
    this.#calls.delete(message.id);
    if (message.type === 'done') call.resolve(message.result);
    else call.reject(failureFromWire(message.failure));
  }

  #die(reason: string): void {
    this.isAlive = false;
    for (const { reject } of this.#calls.values()) reject(new Failure('job/worker-died', { message: reason }));
    this.#calls.clear();
  }
}

/** Threads of which the least busy one takes the next task; each starts when all others are busy, and anew when one has died. */
export class Crew<W extends Work> {
  #members: Member<W>[] = [];

  /** @param helpful how many threads are of use to a task: all of them where it is left out */
  constructor(
    private readonly size: number,
    private readonly spawn: Spawn<W>,
    private readonly helpful: (task: TaskOf<W>) => number = () => size,
  ) {}

  leastBusy(most = this.size): Member<W> {
    this.#members = this.#members.filter(({ isAlive }) => isAlive);
    const isIdle = this.#members.some(({ load }) => load === 0);
    if (!isIdle && this.#members.length < most) this.#members.push(new Member(this.spawn));
    return this.#members.reduce((least, member) => (member.load < least.load ? member : least));
  }

  /** @throws Failure as {@link Member.run} */
  run<T extends TaskOf<W>>(task: T, options?: CallOptions<W>): Promise<ResultOf<W, T>> {
    return this.leastBusy(this.helpful(task)).run(task, options);
  }

  /** Ends the threads that have nothing to do, and with them what they hold of memory; one starts anew when it is needed. */
  async rest(): Promise<void> {
    await Promise.all(this.#members.filter(({ load }) => load === 0).map((member) => member.end()));
  }

  async end(): Promise<void> {
    await Promise.all(this.#members.map((member) => member.end()));
  }
}
