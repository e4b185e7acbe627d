import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';

/** Frames that lie ready for a thread that becomes free. */
const READY = 2;

/**
 * Threads that compress (Zstandard), as many as there are processors. They get ready at once.
 * @returns `compress(bytes, prefix, level)`, which answers with a frame and takes the bytes over, how many frames to hand over at a time
 *   (`lanes`), and `end`
 */
export function zstdThreads() {
  const waiting = [];
  const free = [];
  /** What each thread has under way. */
  const underWay = new Map();
  const next = () => {
    while (free.length > 0 && waiting.length > 0) {
      const [thread, task] = [free.pop(), waiting.shift()];
      underWay.set(thread, task);
      const { bytes, prefix, level } = task;
      thread.postMessage({ bytes, prefix, level }, [bytes.buffer, prefix.buffer]);
    }
  };
  const threads = Array.from({ length: availableParallelism() }, () => {
    const thread = new Worker(new URL('./zstd-thread.mjs', import.meta.url));
    thread.on('message', ({ packed, problem }) => {
      const { resolve, reject } = underWay.get(thread);
      underWay.delete(thread);
      free.push(thread);
      if (packed) resolve(packed);
      else reject(new Error(problem));
      next();
    });
    thread.on('error', (error) => {
      for (const { reject } of [...underWay.values(), ...waiting.splice(0)]) reject(error);
      underWay.clear();
    });
    return thread;
  });
  free.push(...threads);
  return {
    lanes: threads.length + READY,
    compress: (bytes, prefix, level) =>
      new Promise((resolve, reject) => {
        waiting.push({ bytes, prefix, level, resolve, reject });
        next();
      }),
    end: () => Promise.all(threads.map((thread) => thread.terminate())),
  };
}
