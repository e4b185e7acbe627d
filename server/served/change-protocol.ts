import type { Done, Work } from '#core/calls';
import type { Inspected, Inspection, Journalled } from '#core/changes';
import type { Act, StoreView } from '#core/contents';
import type { ContentKey } from '#core/digest';
import type { Brought, Haul, PieceNews } from '#core/fetch';
import type { Keepsake, KeepsakeList } from '#core/keepsakes';
import type { ServedState } from '#core/served';
import type { OwnService } from '../from/open-source';
import type { DiskPlace } from './node-disk';

/* What the server and a thread that changes a folder say to each other. A change has a thread to itself, so that nothing else
 * waits for it; all the rest is short and shares one. */

/** What is done, on which disk. */
export type ChangeTask =
  | { readonly do: 'change'; readonly act: Act }
  | { readonly do: 'state' }
  /** How far a set has come; undefined where there is none. */
  | { readonly do: 'journal'; readonly set: string }
  | { readonly do: 'view' }
  /** What a browser has left of what it knew of the install. */
  | { readonly do: 'mirror' }
  | { readonly do: 'keepsakes' }
  /** A keepsake with its files; undefined where there is none of that id. */
  | { readonly do: 'keepsake'; readonly id: string }
  /** Where contents are to be had; one change may be left out. */
  | { readonly do: 'sources'; readonly without: string | undefined }
  | { readonly do: 'list'; readonly below: string }
  /** Reads files, to say what changes of them meet. */
  | { readonly do: 'inspect'; readonly inspection: Inspection }
  | { readonly do: 'read-only'; readonly paths: readonly string[] }
  /** Fetches contents into the store. */
  | ({ readonly do: 'fetch'; readonly own: OwnService; readonly bytesPerSecond: number | undefined } & Haul)
  /** Puts bytes of a content that arrives. */
  | { readonly do: 'arrive'; readonly name: string; readonly offset: number; readonly bytes: Uint8Array<ArrayBuffer> }
  /** Puts a content in place that has arrived, once its bytes are right. */
  | { readonly do: 'arrived'; readonly name: string; readonly key: ContentKey };

export interface ChangeResults {
  change: Record<string, never>;
  state: Omit<ServedState, 'write' | 'store' | 'inGame'>;
  journal: Journalled | undefined;
  view: StoreView;
  mirror: string | undefined;
  keepsakes: KeepsakeList;
  keepsake: Keepsake | undefined;
  /** Columns. */
  sources: { readonly keys: readonly ContentKey[]; readonly paths: readonly string[] };
  list: readonly { readonly path: string; readonly size: number; readonly modified: number }[];
  inspect: Inspected;
  /** Those of the paths that are. */
  'read-only': readonly string[];
  fetch: Brought;
  arrive: Record<string, never>;
  arrived: Record<string, never>;
}

/** What a thread does that changes folders. */
export interface ChangeWork extends Work {
  task: ChangeTask & { readonly place: DiskPlace };
  results: ChangeResults;
  progress: Done | PieceNews;
}

/** What a thread is given that changes folders. */
export interface ChangeThreadData {
  /** The module of a thread that looks at folders, in JavaScript. */
  readonly looking: string;
}
