import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';

/**
 * Threads that compress (Zstandard), as many as there are processors.
 * @returns `compress(bytes, prefix, level)`, which answers with a frame and takes the bytes over, `lanes` of which run at a time, and `end`
 */
export function zstdThreads() {
  const lanes = availableParallelism();
  const waiting = new Map();
  let next = 0;
  const threads = Array.from({ length: lanes }, () => {
    const thread = new Worker(new URL('./zstd-thread.mjs', import.meta.url));
    thread.on('message', ({ id, packed, problem }) => {
      const { resolve, reject } = waiting.get(id);
      waiting.delete(id);
      if (packed) resolve(packed);
      else reject(new Error(problem));
    });
    thread.on('error', (error) => {
      for (const { reject } of waiting.values()) reject(error);
      waiting.clear();
    });
    return thread;
  });
  return {
    lanes,
    compress(bytes, prefix, level) {
      const id = next++;
      return new Promise((resolve, reject) => {
        waiting.set(id, { resolve, reject });
        threads[id % lanes].postMessage({ id, bytes, prefix, level }, [bytes.buffer, prefix.buffer]);
      });
    },
    end: () => Promise.all(threads.map((thread) => thread.terminate())),
  };
}
