import type { Done, Work } from '#core/calls';
import type { ContentKey } from '#core/digest';
import type { PieceSource } from '#core/fetch';
import type { WireFailure } from '#core/failure';
import type { BagInfo } from '#core/keepsakes';
import type { HashWish } from '#core/folders';
import type { ChangeTask } from './change-task';
import type { Place } from '~/folders';

/** What only looks at a folder, wherever it lies. */
export type LookTask =
  /** Lists the files below `root`. */
  | { readonly do: 'list'; readonly place: Place; readonly root: string }
  | { readonly do: 'hash'; readonly place: Place; readonly files: readonly HashWish[] };

/** Where contents may be put down that arrive. */
export type ArrivalPlace = Extract<Place, { kind: 'browser-disk' | 'picked' | 'served' }>;

/** What puts down on a disk what arrives from elsewhere. All paths are relative to the disk. */
export type ArrivalTask =
  /** Fetches one file in pieces, each checked, into `to` by way of `to.part`; goes on with a `.part` that is there. */
  | {
      readonly do: 'fetch';
      readonly place: ArrivalPlace;
      readonly to: string;
      readonly href: string;
      readonly size: number;
      readonly key: ContentKey;
      readonly token: string | undefined;
      /** Where pieces lie on disk; undefined ones are fetched. */
      readonly sources: readonly (PieceSource | undefined)[];
    }
  /** Downloads whole files, unchecked: what the outside world does to the folder. */
  | {
      readonly do: 'download';
      readonly disk: string;
      readonly files: readonly { href: string; to: string; size: number }[];
    };

/** Packs files of a folder, wherever it lies, into a keepsake on a disk. */
export interface BagTask {
  readonly do: 'bag';
  readonly place: Place;
  readonly root: string;
  /** Below `root`. */
  readonly paths: readonly string[];
  readonly disk: string;
  /** Where the archive goes on the disk. */
  readonly to: string;
  /** The bag's only folder. */
  readonly name: string;
  readonly info: BagInfo;
}

export type DiskTask = LookTask | ArrivalTask | BagTask | ChangeTask;

/** The files of a folder as columns, sorted by path: sizes in bytes, times in milliseconds since 1970. */
export interface Listing {
  readonly paths: readonly string[];
  readonly sizes: Float64Array;
  readonly modified: Float64Array;
  /** Files and folders that could not be looked at. */
  readonly unreadable: readonly { readonly path: string; readonly failure: WireFailure }[];
}

export interface HashResult {
  /** In the order of the task's files; undefined for an unreadable one. `pieces` are those of its span, or all. */
  readonly contents: readonly ({ readonly size: number; readonly pieces: readonly string[] } | undefined)[];
  readonly unreadable: readonly { readonly path: string; readonly failure: WireFailure }[];
}

export interface DiskResults {
  list: Listing;
  hash: HashResult;
  fetch: { readonly fetchedBytes: number; readonly reusedBytes: number };
  download: Record<string, never>;
  change: Record<string, never>;
  bag: { readonly bytes: number };
}

/** What happens to a piece while its file is fetched. */
export type PieceState = 'to-come' | 'on-hand' | 'reused' | 'arriving' | 'failing' | 'checked';

export type DiskProgress =
  | ({ readonly kind: 'bytes' } & Done)
  | { readonly kind: 'piece'; readonly index: number; readonly state: PieceState; readonly bytes: number };

/** What a worker for disks does. */
export interface DiskWork extends Work {
  task: DiskTask;
  results: DiskResults;
  progress: DiskProgress;
}
