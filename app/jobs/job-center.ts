import { Failure, failureToWire, isFailure } from '#core/failure';
import { broadcast, listen } from '~/store/changes';
import { getJob, listJobs, putJob } from '~/store/jobs';
import type { JobKind, JobProgress, JobRecord } from '~/store/records';
import type { JobContext, Kind } from './job-context';
import { DiskPool } from './pool';
import { KINDS } from './kinds';
import { AT_REST, RateMeter, type Speed } from './rate-meter';

export interface LiveJob {
  readonly record: JobRecord;
  readonly speed: Speed;
}

const ENDED = new Set(['done', 'failed', 'cancelled']);
const KEEP_MS = 1000;
const TELL_MS = 150;
const NO_PROGRESS: JobProgress = { phase: '', files: 0, filesTotal: 0, bytes: 0, bytesTotal: 0 };

interface Running {
  record: JobRecord;
  readonly stop: AbortController;
  readonly meter: RateMeter;
  paused: PromiseWithResolversLike | undefined;
  told: number;
  kept: number;
}

function speedOf({ meter, record: { progress } }: Running): Speed {
  const { files, filesTotal, bytes, bytesTotal } = progress;
  return meter.speed({ files: filesTotal - files, bytes: bytesTotal - bytes });
}

interface PromiseWithResolversLike {
  readonly promise: Promise<void>;
  readonly resolve: () => void;
}

function resolvers(): PromiseWithResolversLike {
  let resolve = (): void => undefined;
  const promise = new Promise<void>((r) => (resolve = r));
  return { promise, resolve };
}

/**
 * Runs jobs. One job at a time changes an install, in whichever tab holds its lock; the others wait. A job that was cut
 * off goes on in the first tab that gets the lock, since its record says that it has not ended.
 */
export class JobCenter {
  readonly #running = new Map<string, Running>();
  #live: ReadonlyMap<string, LiveJob> = new Map();
  readonly #listeners = new Set<() => void>();
  #pool: DiskPool | undefined;
  #adopted = false;

  constructor(private readonly kinds: Readonly<Record<JobKind, Kind>> = KINDS) {}

  get #disks(): DiskPool {
    const size = Math.max(1, Math.min(2, navigator.hardwareConcurrency));
    this.#pool ??= new DiskPool(
      size,
      () => new Worker(new URL('./workers/disk-worker.ts', import.meta.url), { type: 'module', name: 'disk' }),
    );
    return this.#pool;
  }

  /** All jobs that are known, by id; a new map whenever one of them changed. */
  snapshot = (): ReadonlyMap<string, LiveJob> => this.#live;

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  #show(record: JobRecord, speed: Speed): void {
    this.#live = new Map(this.#live).set(record.id, { record, speed });
    this.#listeners.forEach((listener) => listener());
  }

  /** Takes up the jobs in the store, once a page; those that have not ended go on as soon as no other tab runs them. */
  async adopt(): Promise<void> {
    if (this.#adopted) return;
    this.#adopted = true;
    listen((message) => {
      if (message.type === 'job' && !this.#running.has(message.job.id)) this.#show(message.job, message.speed);
      if (message.type === 'command') this.#obey(message.job, message.command);
    });
    for (const record of await listJobs()) {
      this.#show(record, AT_REST);
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
    await putJob(record);
    this.#show(record, AT_REST);
    broadcast({ type: 'job', job: record, speed: AT_REST });
    void this.#drive(id);
    return id;
  }

  /** Lets a failed job go on where it stopped. */
  async again(id: string): Promise<void> {
    const record = await getJob(id);
    if (record?.state !== 'failed') return;
    const { failure: _failure, endedAt: _endedAt, ...rest } = record;
    await putJob({ ...rest, state: 'waiting' });
    void this.#drive(id);
  }

  pause = (id: string): void => this.#command(id, 'pause');
  resume = (id: string): void => this.#command(id, 'resume');
  cancel = (id: string): void => this.#command(id, 'cancel');

  /** The tab that runs the job may be another one. */
  #command(id: string, command: 'pause' | 'resume' | 'cancel'): void {
    broadcast({ type: 'command', job: id, command });
  }

  #obey(id: string, command: 'pause' | 'resume' | 'cancel'): void {
    const running = this.#running.get(id);
    if (!running) return;
    if (command === 'cancel') {
      running.stop.abort();
      running.paused?.resolve();
    } else if (command === 'pause' && !running.paused) {
      running.paused = resolvers();
      this.#tell(running, { state: 'paused' });
    } else if (command === 'resume' && running.paused) {
      running.paused.resolve();
      running.paused = undefined;
      running.meter.reset();
      this.#tell(running, { state: 'running' });
    }
  }

  /** Shows and stores a change of state at once. */
  #tell(running: Running, change: Partial<JobRecord>): void {
    running.record = { ...running.record, ...change };
    const speed = speedOf(running);
    this.#show(running.record, speed);
    void putJob(running.record);
    broadcast({ type: 'job', job: running.record, speed });
  }

  /** Shows and stores progress, but not more often than anyone can see. */
  #progress(running: Running, progress: JobProgress): void {
    running.record = { ...running.record, progress };
    const now = performance.now();
    if (now - running.told > TELL_MS) {
      running.told = now;
      const speed = speedOf(running);
      this.#show(running.record, speed);
      broadcast({ type: 'job', job: running.record, speed });
    }
    if (now - running.kept > KEEP_MS) {
      running.kept = now;
      void putJob(running.record);
    }
  }

  async #drive(id: string): Promise<void> {
    const stored = await getJob(id);
    if (!stored) return;
    await navigator.locks.request(`regressum-disk-${stored.install}`, async () => {
      const record = await getJob(id);
      if (!record || ENDED.has(record.state) || this.#running.has(id)) return;
      const running: Running = {
        record,
        stop: new AbortController(),
        meter: new RateMeter(() => performance.now()),
        paused: record.state === 'paused' ? resolvers() : undefined,
        told: 0,
        kept: performance.now(),
      };
      this.#running.set(id, running);
      await this.#run(running);
      this.#running.delete(id);
    });
    broadcast({ type: 'changed' });
  }

  async #run(running: Running): Promise<void> {
    const kind = this.kinds[running.record.kind];
    const context = this.#context(running);
    if (!running.paused) this.#tell(running, { state: 'running', progress: NO_PROGRESS });
    try {
      await kind.run(context);
      this.#tell(running, { state: 'done', endedAt: Date.now() });
    } catch (error) {
      if (running.stop.signal.aborted && isFailure(error, 'job/cancelled')) {
        await kind.undo?.(context);
        this.#tell(running, { state: 'cancelled', endedAt: Date.now() });
      } else {
        this.#tell(running, { state: 'failed', failure: failureToWire(error), endedAt: Date.now() });
      }
    }
  }

  #context(running: Running): JobContext {
    const { record, stop, meter } = running;
    return {
      id: record.id,
      install: record.install,
      params: record.params,
      signal: stop.signal,
      pool: this.#disks,
      gate: async () => {
        while (running.paused)
          await running.paused.promise.then(() => stop.signal.aborted && (running.paused = undefined));
        if (stop.signal.aborted) throw new Failure('job/cancelled');
      },
      phase: (phase, filesTotal, bytesTotal) => {
        meter.reset();
        running.told = 0;
        this.#progress(running, { phase, files: 0, filesTotal, bytes: 0, bytesTotal });
      },
      add: (files, bytes) => {
        meter.add({ files, bytes });
        const { progress } = running.record;
        this.#progress(running, { ...progress, files: progress.files + files, bytes: progress.bytes + bytes });
      },
      then: (kind, params) => void this.start(kind, record.install, params),
    };
  }
}

export const jobs = new JobCenter();
