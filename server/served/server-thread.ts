import { parentPort, type ResourceLimits, Worker } from 'node:worker_threads';
import { answering, type FromWorker, type Perform, type Spawn, type ToWorker, type Work } from '#core/calls';

/**
 * A thread of the server's as one that is asked.
 * @param file its module, in JavaScript
 * @param workerData is given to it
 */
export const serverThread =
  <W extends Work>(file: URL, resourceLimits: ResourceLimits, workerData?: unknown): Spawn<W> =>
  (hear, died) => {
    // Descriptors are the server's, which closes them, whoever opened them.
    const worker = new Worker(file, { trackUnmanagedFds: false, resourceLimits, workerData });
    worker.unref();
    worker.on('message', (message: FromWorker<W>) => hear(message));
    worker.on('error', (error) => died(error instanceof Error ? error.message : String(error)));
    worker.on('exit', () => died('the thread ended'));
    return { post: (message) => worker.postMessage(message), end: () => worker.terminate() };
  };

/** Makes this thread do the tasks that it is sent. */
export function answerParent<W extends Work>(perform: Perform<W, AbortSignal>): void {
  const hear = answering<W, AbortSignal>(perform, {
    post: (message) => parentPort!.postMessage(message),
    newStop: () => new AbortController(),
  });
  parentPort!.on('message', (message: ToWorker<W>) => hear(message));
}
