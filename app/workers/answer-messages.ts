import { answering, type Perform, type ToWorker, type Work } from '#core/calls';

/** Makes this worker do the tasks that it is sent. */
export function answerMessages<W extends Work>(perform: Perform<W, AbortSignal>): void {
  const hear = answering<W, AbortSignal>(perform, {
    post: (message) => self.postMessage(message),
    newStop: () => new AbortController(),
  });
  self.onmessage = ({ data }: MessageEvent<ToWorker<W>>) => hear(data);
}
