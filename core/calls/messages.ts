import type { WireFailure } from '#core/failure';

/*
 * What two threads say to each other, whichever they are: one asks for pieces of work, the other does them, tells how far it
 * is, and answers each with a result or a failure.
 */

/** What a thread does. */
export interface Work {
  /** Each kind of task has a name. */
  task: { readonly do: string };
  /** By the name of the task. */
  results: object;
  progress: unknown;
}

export type TaskOf<W extends Work> = W['task'];
export type ResultOf<W extends Work, T extends W['task']> = W['results'][T['do'] & keyof W['results']];

export type ToWorker<W extends Work> =
  | { readonly type: 'do'; readonly id: number; readonly task: TaskOf<W> }
  | { readonly type: 'stop'; readonly id: number };

export type FromWorker<W extends Work> =
  | { readonly type: 'progress'; readonly id: number; readonly progress: W['progress'] }
  | { readonly type: 'done'; readonly id: number; readonly result: ResultOf<W, TaskOf<W>> }
  | { readonly type: 'failed'; readonly id: number; readonly failure: WireFailure };
