import type { JobRecord } from './records';

/** How fast a job is. */
export interface Speed {
  /** Bytes a second; 0 until there is something to tell. */
  readonly rate: number;
  /** How long it takes at this speed; undefined until there is a speed. */
  readonly secondsLeft: number | undefined;
}

/** A job as it is shown: its parameters may be large, and concern nobody but who runs it. */
export type ShownJob = Omit<JobRecord, 'params'>;

export type JobCommand = 'pause' | 'resume' | 'cancel';

/** What other tabs (and this one) are told. `changed`: something in the store is new. */
export type Broadcast =
  | { type: 'changed' }
  | { type: 'job'; job: ShownJob; speed: Speed }
  | { type: 'command'; job: string; command: JobCommand };

let channel: BroadcastChannel | undefined;
const listeners = new Set<(message: Broadcast) => void>();

function open(): BroadcastChannel {
  if (!channel) {
    channel = new BroadcastChannel('regressum');
    channel.onmessage = (event: MessageEvent<Broadcast>) => listeners.forEach((listen) => listen(event.data));
  }
  return channel;
}

/** Tells all other tabs, and the listeners of this one. */
export function broadcast(message: Broadcast): void {
  open().postMessage(message);
  listeners.forEach((listen) => listen(message));
}

/** @returns stops listening */
export function listen(listener: (message: Broadcast) => void): () => void {
  open();
  listeners.add(listener);
  return () => listeners.delete(listener);
}
