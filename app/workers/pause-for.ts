import { Failure } from '#core/failure';

/** Waits for so many milliseconds. @throws Failure `job/cancelled` as soon as `signal` says so */
export function pauseFor(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const stop = (): void => {
      clearTimeout(timer);
      reject(new Failure('job/cancelled'));
    };
    const timer = setTimeout(() => {
      signal.removeEventListener('abort', stop);
      resolve();
    }, milliseconds);
    if (signal.aborted) stop();
    else signal.addEventListener('abort', stop, { once: true });
  });
}
