import { failureToWire } from '#core/failure';
import type { FromWorker, ResultOf, TaskOf, ToWorker, Work } from './messages';

/** Does one task. */
export type Perform<W extends Work, Signal> = (
  task: TaskOf<W>,
  asked: Asked<W, Signal>,
) => Promise<ResultOf<W, TaskOf<W>>>;

export interface Ports<W extends Work, Signal> {
  readonly post: (message: FromWorker<W>) => void;
  /** As the platform's `AbortController`. */
  readonly newStop: () => { readonly signal: Signal; abort(): void };
}

/** What the work on one task may say and hear. */
export interface Asked<W extends Work, Signal> {
  readonly signal: Signal;
  readonly progress: (progress: W['progress']) => void;
}

/**
 * The thread's own end: does each task that it hears of, several at once where the work waits for something.
 * @returns what hears the messages
 */
export function answering<W extends Work, Signal>(
  perform: Perform<W, Signal>,
  { post, newStop }: Ports<W, Signal>,
): (message: ToWorker<W>) => void {
  const running = new Map<number, { abort(): void }>();
  const answer = async ({ id, task }: Extract<ToWorker<W>, { type: 'do' }>): Promise<FromWorker<W>> => {
    const stop = newStop();
    running.set(id, stop);
    try {
      const result = await perform(task, {
        signal: stop.signal,
        progress: (progress) => post({ type: 'progress', id, progress }),
      });
      return { type: 'done', id, result };
    } catch (error) {
      return { type: 'failed', id, failure: failureToWire(error) };
    } finally {
      running.delete(id);
    }
  };
  return (message) => {
    if (message.type === 'stop') running.get(message.id)?.abort();
    else void answer(message).then(post);
  };
}
