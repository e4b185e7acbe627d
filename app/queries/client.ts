import { Failure, failureFromWire } from '#core/failure';
import { servedToken } from '~/remote';
import type { Answer, Ask, Question, Questions } from './protocol';
import { restoringReceiver } from './shared';

interface Waiting {
  resolve: (value: unknown) => void;
  reject: (failure: Failure) => void;
}

let worker: Worker | undefined;
const waiting = new Map<number, Waiting>();
let nextId = 1;

function hire(): Worker {
  const hired = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: 'queries' });
  const restore = restoringReceiver();
  hired.onmessage = ({ data }: MessageEvent<Answer>) => {
    const call = waiting.get(data.id);
    waiting.delete(data.id);
    if (data.type === 'failed') call?.reject(failureFromWire(data.failure));
    else call?.resolve(restore(data));
  };
  hired.onerror = (event) => {
    worker = undefined;
    hired.terminate();
    for (const call of waiting.values()) call.reject(new Failure('job/worker-died', { message: event.message }));
    waiting.clear();
  };
  return hired;
}

/** Puts a query to its worker. @throws Failure as the question does, or `job/worker-died` */
export function query<Q extends Question>(
  question: Q,
  ...parameters: Parameters<Questions[Q]>
): ReturnType<Questions[Q]> {
  worker ??= hire();
  const id = nextId++;
  const answer = new Promise((resolve, reject) => waiting.set(id, { resolve, reject }));
  const ask: Ask = { id, question, parameters, token: servedToken() };
  worker.postMessage(ask);
  return answer as ReturnType<Questions[Q]>;
}
