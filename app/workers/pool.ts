import { Failure, failureFromWire } from '#core/failure';
import type { DiskProgress, DiskResults, DiskTask, FromWorker, ToWorker } from './protocol';

/** As much of a Worker as the pool needs. */
export interface WorkerLike {
  postMessage(message: ToWorker): void;
  terminate(): void;
  onmessage: ((event: MessageEvent<FromWorker>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
}

interface Call {
  readonly resolve: (result: DiskResults[DiskTask['do']]) => void;
  readonly reject: (failure: Failure) => void;
  readonly progress: ((progress: DiskProgress) => void) | undefined;
}

interface Member {
  readonly worker: WorkerLike;
  readonly calls: Map<number, Call>;
}

/**
 * Disk workers with the least busy one taking the next task. When a worker dies, each of its calls is rejected with
 * `job/worker-died` and a fresh one takes its place at the next call.
 */
export class DiskPool {
  #members: Member[] = [];
  #nextId = 1;

  constructor(
    private readonly size: number,
    private readonly spawn: () => WorkerLike,
  ) {}

  /** @throws Failure as the task does; `job/cancelled` when `signal` stops it, `job/worker-died` */
  run<Task extends DiskTask>(
    task: Task,
    options: { signal?: AbortSignal; progress?: (progress: DiskProgress) => void } = {},
  ): Promise<DiskResults[Task['do']]> {
    const { signal, progress } = options;
    if (signal?.aborted) return Promise.reject(new Failure('job/cancelled'));
    const member = this.#leastBusy();
    const id = this.#nextId++;
    return new Promise((resolve, reject) => {
      const stop = (): void => member.worker.postMessage({ type: 'stop', id });
      const settle = (): void => signal?.removeEventListener('abort', stop);
      member.calls.set(id, {
        progress,
        resolve: (result) => {
          settle();
          resolve(result as DiskResults[Task['do']]);
        },
        reject: (failure) => {
          settle();
          reject(failure);
        },
      });
      signal?.addEventListener('abort', stop);
      member.worker.postMessage({ type: 'do', id, task });
    });
  }

  #leastBusy(): Member {
    if (this.#members.length < this.size) this.#members.push(this.#hire());
    return this.#members.reduce((least, member) => (member.calls.size < least.calls.size ? member : least));
  }

  #hire(): Member {
    const member: Member = { worker: this.spawn(), calls: new Map() };
    member.worker.onmessage = ({ data }) => {
      const call = member.calls.get(data.id);
      // What arrives after the call was settled is dropped.
      if (!call) return;
      if (data.type === 'progress') {
        call.progress?.(data.progress);
        return;
      }
      member.calls.delete(data.id);
      if (data.type === 'done') call.resolve(data.result);
      else call.reject(failureFromWire(data.failure));
    };
    member.worker.onerror = (event) => {
      this.#members = this.#members.filter((other) => other !== member);
      member.worker.terminate();
      for (const call of member.calls.values()) call.reject(new Failure('job/worker-died', { message: event.message }));
      member.calls.clear();
    };
    return member;
  }
}
