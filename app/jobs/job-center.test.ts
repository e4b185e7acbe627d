import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { afterAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { Failure } from '#core/failure';
import { closeDb } from '~/store/db';
import { listen } from '~/store/changes';
import { getJob, putJob } from '~/store/jobs';
import type { JobRecord } from '~/store/records';
import { JobCenter } from './job-center';
import type { Kind } from './job-context';
import { KINDS } from './kinds';

/** As much of the platform's locks as jobs use: one holder a name, the others in a row. */
function lockManager() {
  const tails = new Map<string, Promise<unknown>>();
  return {
    request<T>(name: string, work: () => Promise<T>): Promise<T> {
      const turn = (tails.get(name) ?? Promise.resolve()).then(work);
      tails.set(
        name,
        turn.catch(() => undefined),
      );
      return turn;
    },
  };
}

/** A center in which surveys do what the test says. */
const centerWhere = (run: Kind['run'], undo?: Kind['undo']): JobCenter =>
  new JobCenter({ ...KINDS, survey: async () => (undo ? { run, undo } : { run }) });

const nothing: Kind = { run: async () => undefined };

const ended = (id: string, state: JobRecord['state']): Promise<void> =>
  vi.waitFor(async () => expect((await getJob(id))?.state).toBe(state), { timeout: 240_000, interval: 5 });

/** Lets everything go on that waits for nothing but its turn. */
async function settled(): Promise<void> {
  for (let turn = 0; turn < 50; turn++) await new Promise((resolve) => setImmediate(resolve));
}

beforeEach(() => {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
  vi.stubGlobal('navigator', { locks: lockManager(), hardwareConcurrency: 2 });
});
afterAll(() => vi.unstubAllGlobals());

const never = (signal: AbortSignal): Promise<void> =>
  new Promise((_resolve, reject) => signal.addEventListener('abort', () => reject(new Failure('job/cancelled'))));

describe('the browser is asked to keep what it has', () => {
  it('once a job brings something that could be lost, not for a look, and nobody waits for the answer', async () => {
    const persist = vi.fn(() => new Promise<boolean>(() => undefined));
    vi.stubGlobal('navigator', { locks: lockManager(), hardwareConcurrency: 2, storage: { persist } });
    const jobs = new JobCenter({ ...KINDS, survey: async () => nothing, keepsake: async () => nothing });
    await ended(await jobs.start('survey', 'a'), 'done');
    expect(persist).not.toHaveBeenCalled();
    await ended(await jobs.start('keepsake', 'a'), 'done');
    await ended(await jobs.start('keepsake', 'a'), 'done');
    expect(persist).toHaveBeenCalledOnce();
  });
});

describe('whoever listens', () => {
  it('hears of each change until they have heard enough', async () => {
    const jobs = centerWhere(async ({ phase }) => phase('Looking', 1, 1));
    const states: (string | undefined)[] = [];
    const last = (): string | undefined => [...jobs.snapshot().values()].at(-1)?.record.state;
    const stop = jobs.subscribe(() => states.push(last()));
    await ended(await jobs.start('survey', 'a'), 'done');
    expect([states[0], states.at(-1)]).toEqual(['waiting', 'done']);
    stop();
    const heard = states.length;
    await ended(await jobs.start('survey', 'a'), 'done');
    expect(states).toHaveLength(heard);
  });

  it('can wait for the end, also of what has ended, and is told how it failed', async () => {
    const jobs = centerWhere(async ({ params }) => {
      if (params === 'fails') throw new Failure('folder/full', { path: 'x' });
    });
    const id = await jobs.start('survey', 'a');
    await jobs.ended(id);
    expect((await getJob(id))?.state).toBe('done');
    await jobs.ended(id);
    const failing = await jobs.start('survey', 'a', 'fails');
    await expect(jobs.ended(failing)).rejects.toMatchObject({ code: 'folder/full', facts: { path: 'x' } });
    await jobs.ended('nobody knows');
  });
});

describe('a job', () => {
  it('shows its progress and ends as done', async () => {
    const jobs = centerWhere(async ({ phase, add }) => {
      phase('Looking', 2, 10);
      add(2, 10);
    });
    const id = await jobs.start('survey', 'a');
    await ended(id, 'done');
    expect(jobs.snapshot().get(id)?.record.progress).toMatchObject({ phase: 'Looking', files: 2, bytes: 10 });
  });

  it('that fails keeps why, and goes on when it is asked to', async () => {
    let tries = 0;
    const jobs = centerWhere(async () => {
      if (++tries === 1) throw new Failure('folder/full', { path: 'x' });
    });
    const id = await jobs.start('survey', 'a');
    await ended(id, 'failed');
    expect((await getJob(id))?.failure).toEqual({ code: 'folder/full', facts: { path: 'x' } });
    await jobs.again(id);
    await ended(id, 'done');
    expect((await getJob(id))?.failure).toBeUndefined();
  });

  it('that is cancelled undoes what it did before it ends', async () => {
    const seen: string[] = [];
    const jobs = centerWhere(
      ({ signal }) => never(signal),
      async ({ id }) => void seen.push((await getJob(id))!.state),
    );
    await jobs.adopt();
    const id = await jobs.start('survey', 'a');
    await ended(id, 'running');
    await jobs.cancel(id);
    await ended(id, 'cancelled');
    expect(seen).toEqual(['running']);
  });

  it('that is paused stops at the next gate, and cancelling lets it out there', async () => {
    const passed: number[] = [];
    const jobs = centerWhere(async ({ gate }) => {
      for (let i = 0; ; i++) {
        await gate();
        passed.push(i);
        await new Promise((resolve) => setImmediate(resolve));
      }
    });
    await jobs.adopt();
    const id = await jobs.start('survey', 'a');
    await ended(id, 'running');
    jobs.pause(id);
    await ended(id, 'paused');
    await settled();
    const then = passed.length;
    await settled();
    expect(passed).toHaveLength(then);
    jobs.resume(id);
    await vi.waitFor(() => expect(passed.length).toBeGreaterThan(then), { timeout: 240_000, interval: 5 });
    jobs.pause(id);
    await jobs.cancel(id);
    await ended(id, 'cancelled');
  });
});

describe('a job that is being taken back', () => {
  it('and fails in that says so, and goes on with taking back when it is asked to', async () => {
    const seen: string[] = [];
    const jobs = centerWhere(
      ({ signal }) => never(signal),
      async () => {
        seen.push('undo');
        if (seen.length === 1) throw new Failure('folder/no-permission', { path: 'x' });
      },
    );
    await jobs.adopt();
    const id = await jobs.start('survey', 'a');
    await ended(id, 'running');
    await jobs.cancel(id);
    await ended(id, 'failed');
    expect(await getJob(id)).toMatchObject({ cancelling: true, failure: { code: 'folder/no-permission' } });
    await jobs.again(id);
    await ended(id, 'cancelled');
    expect(seen).toEqual(['undo', 'undo']);
  });

  it('while it waits has ended at once where it never began, and is undone where it had', async () => {
    const seen: string[] = [];
    const jobs = centerWhere(
      async ({ id, gate }) => {
        seen.push(`ran ${id}`);
        await gate();
      },
      async ({ id }) => void seen.push(`undid ${id}`),
    );
    await jobs.adopt();
    let release = (): void => undefined;
    const held = navigator.locks.request('regressum-disk-a', () => new Promise<void>((resolve) => (release = resolve)));
    const fresh = await jobs.start('survey', 'a');
    await jobs.cancel(fresh);
    await ended(fresh, 'cancelled');
    const begun = await jobs.start('survey', 'a');
    const record = (await getJob(begun))!;
    await putJob({ ...record, progress: { ...record.progress, phase: 'Looking' } });
    await jobs.cancel(begun);
    expect((await getJob(begun))?.state).toBe('waiting');
    release();
    await held;
    await ended(begun, 'cancelled');
    expect(seen).toEqual([`undid ${begun}`]);
  });
});

it('others are told how a job goes, not what it works with', async () => {
  const told: unknown[] = [];
  const stop = listen((message) => void told.push(message));
  const jobs = centerWhere(async ({ phase }) => phase('Looking', 1, 1));
  await ended(await jobs.start('survey', 'a', { large: 'parameters' }), 'done');
  stop();
  expect(told.length).toBeGreaterThan(1);
  expect(JSON.stringify(told)).not.toContain('large');
});

it('that a job is done is stored before another one begins', async () => {
  const states: (string | undefined)[] = [];
  const ids: string[] = [];
  const jobs = centerWhere(async ({ id }) => {
    if (id === ids[1]) states.push((await getJob(ids[0]!))?.state);
  });
  ids.push(await jobs.start('survey', 'a'), await jobs.start('survey', 'a'));
  await ended(ids[1]!, 'done');
  expect(states).toEqual(['done']);
});

describe('two jobs', () => {
  it('of one install run one after the other, of two installs at once', async () => {
    const running: string[] = [];
    const together: string[] = [];
    let begun = (): void => undefined;
    const ofOther = new Promise<void>((resolve) => (begun = resolve));
    const jobs = centerWhere(async ({ install }) => {
      running.push(install);
      together.push(running.toSorted().join());
      // Never ends where the other install's waits for this one.
      if (install === 'a') await ofOther;
      else begun();
      await settled();
      running.splice(running.indexOf(install), 1);
    });
    const ids = await Promise.all(['a', 'a', 'b'].map((install) => jobs.start('survey', install)));
    for (const id of ids) await ended(id, 'done');
    expect(together).toContain('a,b');
    expect(together).not.toContain('a,a');
    expect(together).not.toContain('a,a,b');
  });
});

describe('a page that opens', () => {
  const record = (id: string, state: JobRecord['state']): JobRecord => ({
    id,
    install: 'a',
    kind: 'survey',
    params: {},
    state,
    progress: { phase: 'Looking', files: 1, filesTotal: 2, bytes: 1, bytesTotal: 2 },
    startedAt: 1,
  });

  it('goes on with what was cut off, and leaves alone what has ended', async () => {
    const ran: string[] = [];
    for (const state of ['running', 'done', 'failed', 'cancelled'] as const) await putJob(record(state, state));
    const jobs = centerWhere(async ({ id }) => void ran.push(id));
    await jobs.adopt();
    await ended('running', 'done');
    expect(ran).toEqual(['running']);
    expect((await getJob('failed'))?.state).toBe('failed');
  });

  it('keeps a paused job paused, with the progress that it had', async () => {
    await putJob(record('p', 'paused'));
    const jobs = centerWhere(({ gate }) => gate());
    await jobs.adopt();
    await settled();
    expect(jobs.snapshot().get('p')?.record).toMatchObject({ state: 'paused', progress: { files: 1 } });
    jobs.resume('p');
    await ended('p', 'done');
  });
});
