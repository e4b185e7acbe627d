import { expect, it } from 'vitest';
import { Failure } from '#core/failure';
import { answering } from './answering';
import { Crew, type Spawn } from './member';
import type { FromWorker, ToWorker, Work } from './messages';

interface Sums extends Work {
  task: { readonly do: 'double' | 'refuse' | 'wait'; readonly number: number };
  results: { double: number; refuse: never; wait: number };
  progress: number;
}

interface FakeThread {
  readonly got: ToWorker<Sums>[];
  say(message: FromWorker<Sums>): void;
  die(): void;
  ended: boolean;
}

/** Threads that do nothing by themselves. */
function crewOf(size: number, helpful?: (task: Sums['task']) => number): { crew: Crew<Sums>; threads: FakeThread[] } {
  const threads: FakeThread[] = [];
  const spawn: Spawn<Sums> = (say, died) => {
    const got: ToWorker<Sums>[] = [];
    const thread: FakeThread = { got, say, die: () => died('out of memory'), ended: false };
    threads.push(thread);
    return { post: (message) => got.push(message), end: () => void (thread.ended = true) };
  };
  return { crew: new Crew<Sums>(size, spawn, helpful), threads };
}

/** Both ends, with the messages passed on as threads do it: later. */
const working = (): Crew<Sums> =>
  new Crew<Sums>(1, (hear) => {
    const later = (work: () => void): void => void Promise.resolve().then(work);
    const hearTask = answering<Sums, AbortSignal>(
      async ({ do: what, number }, { signal, progress }) => {
        if (what === 'refuse') throw new Failure('folder/full', { path: 'a' });
        progress(number);
        if (what === 'double') return number * 2;
        await new Promise((resolve) => signal.addEventListener('abort', resolve));
        throw new Failure('job/cancelled');
      },
      { post: (message) => later(() => hear(message)), newStop: () => new AbortController() },
    );
    return { post: (message) => later(() => hearTask(message)), end: () => undefined };
  });

const TASK = { do: 'double', number: 1 } as const;

it('gives the next task to the least busy thread', () => {
  const { crew, threads } = crewOf(2);
  for (let i = 0; i < 4; i++) void crew.run(TASK);
  expect(threads.map(({ got }) => got.length)).toEqual([2, 2]);
  crew.leastBusy().kept += 1;
  void crew.run(TASK);
  expect(threads.map(({ got }) => got.length).toSorted()).toEqual([2, 3]);
});

it('takes no more threads than are of use to a task', () => {
  const { crew, threads } = crewOf(2, ({ do: what }) => (what === 'wait' ? 1 : 2));
  for (let i = 0; i < 3; i++) void crew.run({ do: 'wait', number: i });
  expect(threads.map(({ got }) => got.length)).toEqual([3]);
  void crew.run(TASK);
  expect(threads.map(({ got }) => got.length)).toEqual([3, 1]);
});

it('has those that are idle rest, and wakes one before it takes on another', async () => {
  const { crew, threads } = crewOf(2);
  const quick = crew.run(TASK);
  void crew.run(TASK);
  threads[0]!.say({ type: 'done', id: 1, result: 2 });
  await quick;
  void crew.run(TASK).catch(() => undefined);
  expect(threads.map(({ got }) => got.length)).toEqual([2, 1]);
  threads[0]!.say({ type: 'done', id: 2, result: 2 });
  await crew.rest();
  expect(threads[0]!.ended && !threads[1]!.ended).toBe(true);
  void crew.run(TASK);
  expect(threads.map(({ got }) => got.length)).toEqual([2, 1, 1]);
});

it('rejects every call of a thread that dies, and goes on with a fresh one', async () => {
  const { crew, threads } = crewOf(1);
  const calls = [crew.run(TASK), crew.run(TASK)];
  threads[0]!.die();
  for (const call of calls) await expect(call).rejects.toMatchObject({ code: 'job/worker-died' });
  const again = crew.run(TASK);
  threads[1]!.say({ type: 'done', id: 1, result: 2 });
  await expect(again).resolves.toBe(2);
});

it('answers each call with its own result, or with code and facts of its failure', async () => {
  const crew = working();
  const calls = [1, 2, 3].map((number) => crew.run({ do: 'double', number }));
  await expect(crew.run({ do: 'refuse', number: 1 })).rejects.toMatchObject({
    code: 'folder/full',
    facts: { path: 'a' },
  });
  await expect(Promise.all(calls)).resolves.toEqual([2, 4, 6]);
});

it('tells of progress, and stops the one call that is stopped', async () => {
  const crew = working();
  const stop = new AbortController();
  const told: number[] = [];
  const progress = (number: number): void => void told.push(number);
  const waiting = crew.run({ do: 'wait', number: 7 }, { signal: stop.signal, progress });
  await expect(crew.run({ do: 'double', number: 4 }, { progress })).resolves.toBe(8);
  stop.abort();
  await expect(waiting).rejects.toMatchObject({ code: 'job/cancelled' });
  expect(told).toEqual([7, 4]);
  await expect(crew.run(TASK, { signal: stop.signal })).rejects.toMatchObject({ code: 'job/cancelled' });
});

it('drops what comes after a call was settled', async () => {
  const { crew, threads } = crewOf(1);
  let progressed = 0;
  const call = crew.run(TASK, { progress: () => progressed++ });
  threads[0]!.say({ type: 'failed', id: 1, failure: { code: 'job/cancelled', facts: {} } });
  await expect(call).rejects.toMatchObject({ code: 'job/cancelled' });
  threads[0]!.say({ type: 'progress', id: 1, progress: 1 });
  expect(progressed).toBe(0);
});
