import { progressOf, type Step } from '#core/changes';
import { isFailure } from '#core/failure';
import type { z } from 'zod';
import type { JobKind } from '~/store';
import type { DiskPool } from '~/workers';

/** What a kind of job works with while it runs. */
export interface JobContext {
  readonly id: string;
  readonly install: string;
  readonly params: unknown;
  /** What it left with its record when it was cut off before. */
  readonly left: unknown;
  readonly signal: AbortSignal;
  readonly pool: DiskPool;
  /** Waits while the job is paused. @throws Failure `job/cancelled` */
  gate(): Promise<void>;
  /** Waits for so many milliseconds. @throws Failure `job/cancelled` */
  wait(milliseconds: number): Promise<void>;
  /**
   * Does long work that a pause ends and that begins again afterwards: it has to go on from where it was.
   * @param work rejects with `job/cancelled` when its signal asks it to end
   */
  pausing<T>(work: (signal: AbortSignal) => Promise<T>): Promise<T>;
  /** Starts a phase with what there is to do in it. */
  phase(phase: string, filesTotal: number, bytesTotal: number): void;
  /** Counts what is done. @param wire bytes that came over the wire for it, where that is another number */
  add(files: number, bytes: number, wire?: number): void;
  /** Leaves what it found out with its record. */
  tell(outcome: unknown): void;
  /** Starts a job that follows on this one, of this install where no other is named. */
  then(kind: JobKind, params: unknown, install?: string): void;
}

/** Passes over a failure of what is only done besides: the job has done what it was asked for. */
export function unlessDefect(error: unknown): void {
  if (!isFailure(error) || isFailure(error, 'job/cancelled')) throw error;
}

/** The job as one that runs what is no part of its progress. */
export const uncounted = (context: JobContext): JobContext => ({ ...context, add: () => undefined });

/** Starts the phase in which steps of a change set are made, and counted as they are. */
export function beginPhase({ phase }: Pick<JobContext, 'phase'>, name: string, steps: readonly Step[]): void {
  const { files, bytes } = progressOf(steps);
  phase(name, files, bytes);
}

/** A kind of job: what it does, and what it leaves as it was when it is cancelled. Both can be run again from the start. */
export interface Kind {
  readonly run: (context: JobContext) => Promise<void>;
  readonly undo?: (context: JobContext) => Promise<void>;
}

/** Reads a job's parameters, which come from the store. */
export function readParams<Schema extends z.ZodType>(context: JobContext, schema: Schema): z.output<Schema> {
  return schema.parse(context.params);
}
