import type { FromWorker, Spawn, Work } from '#core/calls';

/** A worker of the browser's as a thread that is asked. */
export const browserThread =
  <W extends Work>(start: () => Worker): Spawn<W> =>
  (hear, died) => {
    const worker = start();
    worker.onmessage = ({ data }: MessageEvent<FromWorker<W>>) => hear(data);
    worker.onerror = (event) => {
      worker.terminate();
      died(event.message);
    };
    return { post: (message) => worker.postMessage(message), end: () => worker.terminate() };
  };
