import { expect, it } from 'vitest';
import { DiskPool, type WorkerLike } from './pool';
import type { DiskTask, FromWorker, ToWorker } from './protocol';

class FakeWorker implements WorkerLike {
  onmessage: WorkerLike['onmessage'] = null;
  onerror: WorkerLike['onerror'] = null;
  readonly got: ToWorker[] = [];
  postMessage(message: ToWorker): void {
    this.got.push(message);
  }
  terminate(): void {
    this.got.length = 0;
  }
  say(message: FromWorker): void {
    this.onmessage?.({ data: message } as MessageEvent<FromWorker>);
  }
  die(): void {
    this.onerror?.({ message: 'out of memory' } as ErrorEvent);
  }
}

function poolOf(size: number): { pool: DiskPool; workers: FakeWorker[] } {
  const workers: FakeWorker[] = [];
  const pool = new DiskPool(size, () => {
    const worker = new FakeWorker();
    workers.push(worker);
    return worker;
  });
  return { pool, workers };
}

const TASK: DiskTask = { do: 'download', disk: 'd', files: [] };

it('gives the next task to the least busy worker', () => {
  const { pool, workers } = poolOf(2);
  for (let i = 0; i < 4; i++) void pool.run(TASK);
  expect(workers.map(({ got }) => got.length)).toEqual([2, 2]);
});

it('rejects every call of a worker that dies, and goes on with a fresh one', async () => {
  const { pool, workers } = poolOf(1);
  const calls = [pool.run(TASK), pool.run(TASK)];
  workers[0]!.die();
  for (const call of calls) await expect(call).rejects.toMatchObject({ code: 'job/worker-died' });
  const again = pool.run(TASK);
  workers[1]!.say({ type: 'done', id: 3, result: {} });
  await expect(again).resolves.toEqual({});
});

it('carries code and facts of a failure across', async () => {
  const { pool, workers } = poolOf(1);
  const call = pool.run(TASK);
  workers[0]!.say({ type: 'failed', id: 1, failure: { code: 'folder/full', facts: { path: 'a' } } });
  await expect(call).rejects.toMatchObject({ code: 'folder/full', facts: { path: 'a' } });
});

it('passes a stop on, and drops what arrives after a call was settled', async () => {
  const { pool, workers } = poolOf(1);
  const stop = new AbortController();
  let progressed = 0;
  const call = pool.run(TASK, { signal: stop.signal, progress: () => progressed++ });
  stop.abort();
  expect(workers[0]!.got.at(-1)).toEqual({ type: 'stop', id: 1 });
  workers[0]!.say({ type: 'failed', id: 1, failure: { code: 'job/cancelled', facts: {} } });
  await expect(call).rejects.toMatchObject({ code: 'job/cancelled' });
  workers[0]!.say({ type: 'progress', id: 1, progress: { kind: 'bytes', files: 1, bytes: 1 } });
  expect(progressed).toBe(0);
  await expect(pool.run(TASK, { signal: stop.signal })).rejects.toMatchObject({ code: 'job/cancelled' });
});
