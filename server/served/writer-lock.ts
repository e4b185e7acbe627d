import { readFileSync } from 'node:fs';
import { uptime } from 'node:os';
import { z } from 'zod';

/*
 * Who may write into a store: one process at a time. The lock is a file that is created exclusively, so that of two who want it
 * one gets it. It says which process has it, in which start of the machine, and until when that is believed where the system
 * cannot tell one process from a later one of the same number.
 */

const HolderSchema = z.object({
  pid: z.number(),
  /** Names the start of the machine. */
  boot: z.string().optional(),
  /** When the process began, as the system tells it. */
  started: z.string().optional(),
  /** Milliseconds since 1970; renewed while the lock is held. */
  until: z.number().optional(),
});
type Holder = z.infer<typeof HolderSchema>;

/** How long a lock is believed that is not renewed, in milliseconds. */
const LEASE_MS = 10 * 60_000;
/** A lock is renewed so often. */
export const RENEW_MS = 60_000;
/** Starts of the machine that are told by its clock differ by more than this, in seconds. */
const BOOT_SECONDS = 120;

const textAt = (path: string): string | undefined => {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    // Only Linux tells.
    return undefined;
  }
};

const bootId = (): string =>
  textAt('/proc/sys/kernel/random/boot_id')?.trim() ?? `clock ${Math.round(Date.now() / 1000 - uptime())}`;

/** Field 22 of a process's `stat` (proc(5)): its name, in parentheses, may have blanks. */
const startOf = (pid: number): string | undefined => textAt(`/proc/${pid}/stat`)?.split(') ').at(-1)?.split(' ')[19];

const thisProcess = (now: number): Holder => {
  const started = startOf(process.pid);
  return { pid: process.pid, boot: bootId(), ...(started !== undefined && { started }), until: now + LEASE_MS };
};

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    // One that may not be asked is there all the same.
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

function isOtherBoot(then: string, now: string): boolean {
  const [a, b] = [then, now].map((boot) => /^clock (\d+)$/.exec(boot)?.[1]);
  return a !== undefined && b !== undefined ? Math.abs(Number(a) - Number(b)) > BOOT_SECONDS : then !== now;
}

/** Whether whoever left a lock cannot be writing any more. A lock that cannot be read was cut off while it was made. */
function isLeft(text: string, now: number): boolean {
  const read = HolderSchema.safeParse(parsedOr(text));
  if (!read.success) return true;
  const { pid, boot, started, until } = read.data;
  if (boot !== undefined && isOtherBoot(boot, bootId())) return true;
  if (!isAlive(pid)) return true;
  const startedNow = startOf(pid);
  if (started !== undefined && startedNow !== undefined) return started !== startedNow;
  return until !== undefined && until < now;
}

function parsedOr(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

const holderIn = (text: string): Holder | undefined => HolderSchema.safeParse(parsedOr(text)).data;

/** Small files beside one another, one of which is the lock. */
export interface LockFiles {
  /** Creates a file that is not there; false where one is. */
  create(name: string, text: string): boolean;
  /** Undefined where there is none. */
  read(name: string): string | undefined;
  remove(name: string): void;
}

const LOCK = 'lock.dat';
/** Held for a moment by who removes a lock that was left, so that nobody removes the one that comes after it. */
const TAKING = 'lock-taking.dat';

/**
 * Whether a lock is this process's own. Within a process a disk is changed by one act after the other: who finds it was left
 * by a thread that died.
 */
function isOwn(text: string | undefined): boolean {
  const [holder, own] = [holderIn(text ?? ''), thisProcess(0)];
  return (
    holder !== undefined &&
    [holder.pid, holder.boot, holder.started].every((one, i) => one === [own.pid, own.boot, own.started][i])
  );
}

/** @returns the process that has the lock; undefined where it is this one's now */
export function takeLock(files: LockFiles, now: number): Pick<Holder, 'pid'> | undefined {
  const own = JSON.stringify(thisProcess(now));
  if (isOwn(files.read(LOCK))) return undefined;
  if (files.create(LOCK, own)) return undefined;
  if (!files.create(TAKING, own)) {
    const taking = files.read(TAKING);
    if (taking !== undefined && isLeft(taking, now)) files.remove(TAKING);
    return holderIn(files.read(LOCK) ?? '') ?? { pid: 0 };
  }
  try {
    const there = files.read(LOCK);
    if (there !== undefined && !isLeft(there, now)) return holderIn(there);
    files.remove(LOCK);
    return files.create(LOCK, own) ? undefined : (holderIn(files.read(LOCK) ?? '') ?? { pid: 0 });
  } finally {
    files.remove(TAKING);
  }
}

/** Says that the lock is still held. */
export function renewLock(files: LockFiles & { write(name: string, text: string): void }, now: number): void {
  if (isOwn(files.read(LOCK))) files.write(LOCK, JSON.stringify(thisProcess(now)));
}

/** Gives the lock back, where it is this process's. */
export function giveLockBack(files: LockFiles): void {
  if (isOwn(files.read(LOCK))) files.remove(LOCK);
}
