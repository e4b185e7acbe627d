import type { Work } from '#core/calls';
import type { HashOutcome } from '#core/folders';
import type { ServedHashRequest } from '#core/served';
import type { HeldRoot } from './below';

/* What the server and its threads, which look at served folders, say to each other. */

export type ServedHashFile = ServedHashRequest['files'][number];

export type Task =
  | { readonly do: 'hash'; readonly root: HeldRoot; readonly folder: string; readonly files: readonly ServedHashFile[] }
  /** Opens a file, for the server to read from: descriptors are the process's. */
  | { readonly do: 'open'; readonly root: HeldRoot; readonly path: string }
  /** Starts a list. Nothing is listed yet. */
  | { readonly do: 'list'; readonly list: number; readonly root: HeldRoot; readonly folder: string }
  /** Goes on with a list that was started in this thread. */
  | { readonly do: 'list-on'; readonly list: number }
  | { readonly do: 'list-end'; readonly list: number };

export interface Results {
  /** In the order of the files. */
  hash: readonly HashOutcome[];
  open: { readonly fd: number; readonly size: number; readonly etag: string };
  list: Record<string, never>;
  /** Some entries as JSON, one a line; undefined behind the last. */
  'list-on': string | undefined;
  'list-end': Record<string, never>;
}

/** What a thread does that looks at served folders. */
export interface LookWork extends Work {
  task: Task;
  results: Results;
  progress: never;
}
