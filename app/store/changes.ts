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

/** What of an older store was brought over to the newest version. */
export interface BroughtOver {
  readonly from: number;
  readonly to: number;
  readonly records: number;
  /** How long that took. */
  readonly milliseconds: number;
}

/** What other tabs (and this one) are told. `changed`: something in the store is new. */
export type Broadcast =
  | { type: 'brought-over'; told: BroughtOver }
  | { type: 'changed' }
  | { type: 'job'; job: ShownJob; speed: Speed }
  | { type: 'command'; job: string; command: JobCommand };

let channel: BroadcastChannel | undefined;
const listeners = new Set<(message: Broadcast) => void>();
let broughtOver: BroughtOver | undefined;

/** What was brought over since this page came, here or in a worker: that is over before anything of the page is there. */
export const lastBroughtOver = (): BroughtOver | undefined => broughtOver;

/** Says that a person has read it. */
export const forgetBroughtOver = (): void => (broughtOver = undefined);

function hand(message: Broadcast): void {
  if (message.type === 'brought-over') broughtOver = message.told;
  listeners.forEach((listen) => listen(message));
}

function open(): BroadcastChannel {
  if (!channel) {
    channel = new BroadcastChannel('regressum');
    channel.onmessage = (event: MessageEvent<Broadcast>) => hand(event.data);
  }
  return channel;
}

/** Tells all other tabs, and the listeners of this one. */
export function broadcast(message: Broadcast): void {
  open().postMessage(message);
  hand(message);
}

/** @returns stops listening */
export function listen(listener: (message: Broadcast) => void): () => void {
  open();
  listeners.add(listener);
  return () => listeners.delete(listener);
}
