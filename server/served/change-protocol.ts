import type { Done, Work } from '#core/calls';
import type { ChangeSet, Direction, Journalled } from '#core/changes';
import type { DiskPlace } from './node-disk';

/* What the server and a thread that changes a folder say to each other. A change has a thread to itself, so that nothing else
 * waits for it; all the rest is short and shares one. */

/** What is done, on which disk. */
export type ChangeTask =
  | {
      readonly do: 'change';
      readonly set: string;
      readonly act: Direction | 'let-go';
      readonly plan?: ChangeSet | undefined;
    }
  | { readonly do: 'state' }
  /** How far one set has come, or all of them, with no steps but exchanges. */
  | { readonly do: 'journal'; readonly set: string | undefined }
  | { readonly do: 'list'; readonly below: string }
  /** Puts bytes of a content that arrives, and says how much of it is there. */
  | { readonly do: 'arrive'; readonly name: string; readonly offset: number; readonly bytes: Uint8Array<ArrayBuffer> }
  /** Puts a content in place that has arrived, once its bytes are right. */
  | { readonly do: 'arrived'; readonly name: string; readonly size: number }
  | { readonly do: 'drop-arrived' };

export interface ChangeResults {
  change: Record<string, never>;
  state: { readonly current: string };
  journal: readonly Journalled[];
  list: readonly { readonly path: string; readonly size: number; readonly modified: number }[];
  arrive: Record<string, never>;
  arrived: Record<string, never>;
  'drop-arrived': Record<string, never>;
}

/** What a thread does that changes folders. */
export interface ChangeWork extends Work {
  task: ChangeTask & { readonly place: DiskPlace };
  results: ChangeResults;
  progress: Done;
}

/** What a thread is given that changes folders. */
export interface ChangeThreadData {
  /** The module of a thread that looks at folders, in JavaScript. */
  readonly looking: string;
}
