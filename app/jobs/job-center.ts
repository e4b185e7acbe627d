import { Failure, failureFromWire, failureToWire, isFailure } from '#core/failure';
import {
  broadcast,
  getJob,
  type JobCommand,
  type JobKind,
  type JobProgress,
  type JobRecord,
  listen,
  listJobs,
  pruneJobs,
  putJob,
  type ShownJob,
  type Speed,
} from '~/store';
import type { JobContext, Kind } from './job-context';
import { type DiskPool, hireDiskPool, pauseFor } from '~/workers';
import { KINDS } from './kinds';
import { AT_REST, RateMeter } from './rate-meter';

export interface LiveJob {
  readonly record: ShownJob;
  readonly speed: Speed;
}

/** Jobs by which nothing comes that could not be had again by the same job. */
const ONLY_LOOKING: ReadonlySet<JobKind> = new Set(['seed', 'look', 'survey', 'start']);
const ENDED = new Set(['done', 'failed', 'cancelled']);
const KEEP_MS = 1000;
const TELL_MS = 250;
const NO_PROGRESS: JobProgress = { phase: '', files: 0, filesTotal: 0, bytes: 0, bytesTotal: 0 };

interface Running {
  record: JobRecord;
  readonly stop: AbortController;
  /** What is to end when the job is paused. */
  readonly interrupts: Set<AbortController>;
  readonly meter: RateMeter;
  paused: PromiseWithResolversLike | undefined;
  told: number;
  kept: number;
}

function speedOf({ meter, record: { progress } }: Running): Speed {
  const { files, filesTotal, bytes, bytesTotal } = progress;
  return meter.speed({ files: filesTotal - files, bytes: bytesTotal - bytes });
}

const shown = ({ params: _, ...record }: JobRecord): ShownJob => record;

interface PromiseWithResolversLike {
  readonly promise: Promise<void>;
  readonly resolve: () => void;
}

function resolvers(): PromiseWithResolversLike {
  let resolve = (): void => undefined;
  const promise = new Promise<void>((r) => (resolve = r));
  return { promise, resolve };
}

/** The lock that whoever works on an install's folder holds. */
export const installLock = (install: string): string => `regressum-disk-${install}`;

/**
 * Runs jobs. One job at a time changes an install, in whichever tab holds its lock; the others wait. A job that was cut
 * off goes on in the first tab that gets the lock, since its record says that it has not ended.
 */
export class JobCenter {
  readonly #running = new Map<string, Running>();
  #live: ReadonlyMap<string, LiveJob> = new Map();
  readonly #listeners = new Set<() => void>();
  #pool: DiskPool | undefined;
  #adopted: Promise<void> | undefined;
  #isAskedToLast = false;

  constructor(private readonly kinds: typeof KINDS = KINDS) {}

  get #disks(): DiskPool {
    this.#pool ??= hireDiskPool();
    return this.#pool;
  }

  /** All jobs that are known, by id; a new map whenever one of them changed. */
  snapshot = (): ReadonlyMap<string, LiveJob> => this.#live;

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  #show(record: ShownJob, speed: Speed): void {
    this.#live = new Map(this.#live).set(record.id, { record, speed });
    this.#listeners.forEach((listener) => listener());
  }

  /** Takes up the jobs in the store, once a page; those that have not ended go on as soon as no other tab runs them. */
  adopt(): Promise<void> {
    this.#adopted ??= this.#takeUp().catch((error: unknown) => {
      // The next page that asks tries again.
      this.#adopted = undefined;
      throw error;
    });
    return this.#adopted;
  }

  async #takeUp(): Promise<void> {
    listen((message) => {
      if (message.type === 'job' && !this.#running.has(message.job.id)) this.#show(message.job, message.speed);
      if (message.type === 'command') this.#obey(message.job, message.command);
    });
    await pruneJobs();
    for (const record of await listJobs()) {
      this.#show(shown(record), AT_REST);
      if (!ENDED.has(record.state)) void this.#drive(record.id);
    }
  }

  async start(kind: JobKind, install: string, params: unknown = {}): Promise<string> {
    const id = crypto.randomUUID();
    const record: JobRecord = {
      id,
      install,
      kind,
      params,
      state: 'waiting',
      progress: NO_PROGRESS,
      startedAt: Date.now(),
    };
    await this.#keep(record);
    if (!ONLY_LOOKING.has(kind)) this.#askToLast();
    void this.#drive(id);
    return id;
  }

  /**
   * Asks the browser not to clear by itself what it keeps for this page, once a page. Some ask the person, who may take their
   * time: nothing waits for it, and where the answer is no, Survey shows the room.
   */
  #askToLast(): void {
    if (this.#isAskedToLast) return;
    this.#isAskedToLast = true;
    void navigator.storage?.persist?.().catch(() => undefined);
  }

  /** Waits for a job to end. @throws Failure that it failed with */
  async ended(id: string): Promise<void> {
    for (;;) {
      const record = await getJob(id);
      if (!record) return;
      if (record.state === 'failed') throw failureFromWire(record.failure!);
      if (ENDED.has(record.state)) return;
      await new Promise<void>((resolve) => {
        const stop = this.subscribe(() => {
          if (!ENDED.has(this.#live.get(id)?.record.state ?? '')) return;
          stop();
          resolve();
        });
        if (ENDED.has(this.#live.get(id)?.record.state ?? '')) {
          stop();
          resolve();
        }
      });
    }
  }

  /**
   * Lets a failed job go on where it stopped, be it forward or in taking itself back.
   * @param inPart whether it goes on though some of the player's files cannot be kept before
   */
  async again(id: string, { inPart = false } = {}): Promise<void> {
    const record = await getJob(id);
    if (record?.state !== 'failed') return;
    const { failure: _failure, endedAt: _endedAt, ...rest } = record;
    const params = inPart ? { ...(rest.params as object), inPart: true } : rest.params;
    await this.#keep({ ...rest, params, state: 'waiting' });
    void this.#drive(id);
  }

  pause = (id: string): void => this.#command(id, 'pause');
  resume = (id: string): void => this.#command(id, 'resume');

  /**
   * Has a job undone. One that waits, or has failed, is undone as soon as nobody else works on the install; one that never
   * began has ended at once.
   */
  async cancel(id: string): Promise<void> {
    this.#command(id, 'cancel');
    const record = await getJob(id);
    if (!record || this.#running.has(id) || (record.state !== 'waiting' && record.state !== 'failed')) return;
    const { failure: _failure, endedAt: _endedAt, ...rest } = record;
    const hasBegun = rest.progress.phase !== '';
    if (!hasBegun) await this.#keep({ ...rest, state: 'cancelled', endedAt: Date.now() });
    else {
      await this.#keep({ ...rest, state: 'waiting', cancelling: true });
      if (record.state === 'failed') void this.#drive(id);
    }
  }

  /** The tab that runs the job may be another one. */
  #command(id: string, command: JobCommand): void {
    broadcast({ type: 'command', job: id, command });
  }

  #obey(id: string, command: JobCommand): void {
    const running = this.#running.get(id);
    if (!running) return;
    if (command === 'cancel') {
      running.stop.abort();
      running.interrupts.forEach((interrupt) => interrupt.abort());
      running.paused?.resolve();
    } else if (command === 'pause' && !running.paused) {
      running.paused = resolvers();
      running.interrupts.forEach((interrupt) => interrupt.abort());
      void this.#tell(running, { state: 'paused' });
    } else if (command === 'resume' && running.paused) {
      running.paused.resolve();
      running.paused = undefined;
      running.meter.reset();
      void this.#tell(running, { state: 'running' });
    }
  }

  /** Stores a record that nobody runs, and shows it here and in other tabs. */
  async #keep(record: JobRecord): Promise<void> {
    await putJob(record);
    this.#show(shown(record), AT_REST);
    broadcast({ type: 'job', job: shown(record), speed: AT_REST });
  }

  /** Stores a change of state, and shows it. */
  async #tell(running: Running, change: Partial<JobRecord>): Promise<void> {
    running.record = { ...running.record, ...change };
    const { record } = running;
    // Stored before it is shown: whoever sees that a job has ended may rely on it.
    await putJob(record);
    const speed = speedOf(running);
    this.#show(shown(record), speed);
    broadcast({ type: 'job', job: shown(record), speed });
  }

  /** Shows and stores progress, but not more often than anyone can see. */
  #progress(running: Running, progress: JobProgress): void {
    running.record = { ...running.record, progress };
    const now = performance.now();
    if (now - running.told > TELL_MS) {
      running.told = now;
      const speed = speedOf(running);
      this.#show(shown(running.record), speed);
      broadcast({ type: 'job', job: shown(running.record), speed });
    }
    if (now - running.kept > KEEP_MS) {
      running.kept = now;
      void putJob(running.record);
    }
  }

  async #drive(id: string): Promise<void> {
    const stored = await getJob(id);
    if (!stored) return;
    await navigator.locks.request(installLock(stored.install), async () => {
      const record = await getJob(id);
      if (!record || ENDED.has(record.state) || this.#running.has(id)) return;
      const running: Running = {
        record,
        stop: new AbortController(),
        interrupts: new Set(),
        meter: new RateMeter(() => performance.now()),
        paused: record.state === 'paused' ? resolvers() : undefined,
        told: 0,
        kept: performance.now(),
      };
      this.#running.set(id, running);
      try {
        await this.#run(running);
      } finally {
        this.#running.delete(id);
        if (this.#running.size === 0) void this.#pool?.rest();
      }
    });
    broadcast({ type: 'changed' });
  }

  async #run(running: Running): Promise<void> {
    try {
      const kind = await this.kinds[running.record.kind]();
      if (!running.record.cancelling) {
        if (!running.paused) await this.#tell(running, { state: 'running', progress: NO_PROGRESS });
        await this.#forward(running, kind);
      }
      if (running.record.cancelling) {
        running.paused = undefined;
        await this.#tell(running, { state: 'running', cancelling: true });
        await kind.undo?.(this.#context(running));
        await this.#tell(running, { state: 'cancelled', endedAt: Date.now() });
      } else await this.#tell(running, { state: 'done', endedAt: Date.now() });
    } catch (error) {
      await this.#tell(running, { state: 'failed', failure: failureToWire(error), endedAt: Date.now() });
    }
  }

  async #forward(running: Running, kind: Kind): Promise<void> {
    try {
      await kind.run(this.#context(running));
    } catch (error) {
      if (!running.stop.signal.aborted || !isFailure(error, 'job/cancelled')) throw error;
      running.record = { ...running.record, cancelling: true };
    }
  }

  #context(running: Running): JobContext {
    const { record, stop, meter } = running;
    // What is taken back is not cancelled a second time.
    const signal = record.cancelling ? new AbortController().signal : stop.signal;
    const gate = async (): Promise<void> => {
      while (running.paused) await running.paused.promise.then(() => signal.aborted && (running.paused = undefined));
      if (signal.aborted) throw new Failure('job/cancelled');
    };
    return {
      id: record.id,
      install: record.install,
      params: record.params,
      left: record.outcome,
      signal,
      pool: this.#disks,
      gate,
      wait: (milliseconds) => pauseFor(milliseconds, signal),
      pausing: async (work) => {
        for (;;) {
          await gate();
          const interrupt = new AbortController();
          running.interrupts.add(interrupt);
          try {
            return await work(interrupt.signal);
          } catch (error) {
            const isPause = interrupt.signal.aborted && !signal.aborted;
            if (!isPause || !isFailure(error, 'job/cancelled')) throw error;
          } finally {
            running.interrupts.delete(interrupt);
          }
        }
      },
      phase: (phase, filesTotal, bytesTotal) => {
        meter.reset();
        running.told = 0;
        this.#progress(running, { phase, files: 0, filesTotal, bytes: 0, bytesTotal });
      },
      add: (files, bytes, wire) => {
        meter.add({ files, bytes, wire });
        const { progress } = running.record;
        const done = { files: progress.files + files, bytes: progress.bytes + bytes };
        const came = wire === undefined ? {} : { wire: (progress.wire ?? 0) + wire };
        this.#progress(running, { ...progress, ...done, ...came });
      },
      tell: (outcome) => {
        running.record = { ...running.record, outcome };
      },
      then: (kind, params, install = record.install) => void this.start(kind, install, params),
    };
  }
}

export const jobs = new JobCenter();
