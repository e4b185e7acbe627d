import type { Done, Work } from '#core/calls';
import type { Brought, HaulFile, HaulFrame, PieceNews } from '#core/fetch';
import type { WireFailure } from '#core/failure';
import type { Inspected } from '#core/changes';
import type { ContentKey } from '#core/digest';
import type { BackupInfo, BagInfo } from '#core/keepsakes';
import type { HashWish } from '#core/folders';
import type { Decided, DecisionRule, FileHints, MergeKind, Difference, ChangeSummary } from '#core/merge';
import type { ChangeTask, InspectTask } from './change-task';
import type { BesidePlaces, Place } from '~/folders';

/** What only looks at a folder, wherever it lies. */
export type LookTask =
  /** Lists the files below `root`. */
  | { readonly do: 'list'; readonly place: Place; readonly root: string }
  | { readonly do: 'hash'; readonly place: Place; readonly files: readonly HashWish[] };

/** Where contents may be put down that arrive. */
export type ArrivalPlace = Extract<Place, { kind: 'browser-disk' | 'picked' | 'served' }>;

/** What puts down on a disk what arrives from elsewhere. All paths are relative to the disk. */
export type ArrivalTask =
  /** Fetches contents in pieces, each checked, into the store; goes on with what an earlier try has got. */
  | {
      readonly do: 'fetch';
      readonly place: ArrivalPlace;
      readonly files: readonly HaulFile[];
      readonly frames?: readonly HaulFrame[] | undefined;
      readonly token: string | undefined;
      /** The token of the server's start, for what it fetches from elsewhere. */
      readonly served: string;
      /** The folder that pieces lie in, where that is not the disk itself. */
      readonly from: Place | undefined;
      /** Folders that pieces lie in besides, by what the disk calls them in `beside/`. */
      readonly beside?: BesidePlaces | undefined;
      /** What may come at most; undefined = whatever the line gives. */
      readonly bytesPerSecond?: number | undefined;
    }
  /** Downloads whole files, unchecked: what the outside world does to the folder. */
  | {
      readonly do: 'download';
      readonly disk: string;
      readonly files: readonly { href: string; to: string; size: number }[];
    };

/** Packs contents of a store into a keepsake's archive on a disk. */
export interface BagTask {
  readonly do: 'bag';
  /** What each file is called in the bag, and where its content lies. */
  readonly files: readonly (readonly [as: string, content: string])[];
  readonly from: ArrivalPlace;
  readonly disk: string;
  /** Where the archive goes on the disk. */
  readonly to: string;
  /** The bag's only folder. */
  readonly name: string;
  readonly info: BagInfo;
  /** Texts that are files of the payload. */
  readonly texts?: readonly (readonly [path: string, text: string])[];
  /** Texts beside the payload. */
  readonly tags: readonly (readonly [path: string, text: string])[];
}

/** Looks into an archive in BagIt form that a person brings in, and checks every file of it. */
export interface LookIntoBagTask {
  readonly do: 'look-into-bag';
  readonly from: File;
  /** Paths of the payload's files that are wanted as texts. */
  readonly texts?: RegExp;
}

/** A folder that is read as if it were an archive. */
export interface FolderAsArchive {
  readonly place: Place;
  /** The folder, below the place's own. */
  readonly root: string;
  /** As a person knows it. */
  readonly name: string;
}

/** Looks into any archive that a person brings in, or into a folder as if it were one. */
export interface LookIntoArchiveTask {
  readonly do: 'look-into-archive';
  readonly from: File | FolderAsArchive;
}

/** Works out the SHA-256 of files of an archive as a whole, as a catalogue tells it. */
export interface DigestInArchiveTask {
  readonly do: 'digest-in-archive';
  readonly from: File | FolderAsArchive;
  readonly paths: readonly string[];
}

/** A file of an archive, with its bytes as the store knows them. */
export interface ArchiveFile {
  readonly path: string;
  readonly key: ContentKey;
  /** Milliseconds since 1970, as the archive says. */
  readonly modified: number;
}

/** Takes files of an archive into a store, each by the name of its content. */
export interface UnpackTask {
  readonly do: 'unpack';
  readonly from: File;
  /** Whether it is in BagIt form, and its files are named below the payload. */
  readonly isBag: boolean;
  readonly files: readonly BagFile[];
  readonly to: ArrivalPlace;
}

/** A file of a bag, with its bytes as the store knows them. */
export interface BagFile {
  /** Below the payload. */
  readonly path: string;
  readonly key: ContentKey;
  /** Milliseconds since 1970, as the archive says. */
  readonly modified: number;
}

/** Takes contents that lie on another disk into a store. */
export interface TakeOverTask {
  readonly do: 'take-over';
  readonly contents: readonly (readonly [key: ContentKey, path: string])[];
  readonly from: Place;
  readonly to: ArrivalPlace;
}

/** Packs all that the browser keeps into a file of the person's. */
export interface BackupTask {
  readonly do: 'backup';
  readonly to: FileSystemFileHandle;
  /** The bag's only folder. */
  readonly name: string;
  readonly info: BackupInfo;
  /** JSON: an object. */
  readonly records: string;
}

/** Reads such a file; with `installs` it also lays down what it has of these on the browser disk. */
export interface RestoreTask {
  readonly do: 'restore';
  readonly from: File;
  readonly installs: readonly string[] | undefined;
}

/** A file that is merged with the game's, by where its three texts lie on the disk. */
export interface MergeWish {
  /** The file of the mod. */
  readonly path: string;
  readonly hints: FileHints;
  readonly three: readonly [base: PlacedFile, ours: PlacedFile, theirs: PlacedFile];
}

export interface PlacedFile {
  readonly at: string;
  readonly size: number;
}

/** Merges files of a mod with those of the game that they are made from. */
export interface MergeTask {
  readonly do: 'merge';
  readonly place: ArrivalPlace;
  readonly files: readonly MergeWish[];
  readonly decided: readonly Decided[];
  readonly rules: readonly DecisionRule[];
}

/** What a merge of a file came to. */
export interface MergedFile {
  readonly path: string;
  /** Undefined for bytes that nothing explains, which are left as they are. */
  readonly kind: MergeKind | undefined;
  /** Of a table: the columns that tell rows apart. */
  readonly key?: readonly string[];
  /** Conflicts first, as many as a person can look at; `count` has all of them. */
  readonly differences: readonly Difference[];
  readonly count: { readonly clean: number; readonly decided: number; readonly open: number };
  readonly did: { readonly ours: readonly ChangeSummary[]; readonly theirs: readonly ChangeSummary[] };
  /** How much the mod's file differs from the base. */
  readonly distance: number;
  /** Of what is written as a table: the columns that may tell rows apart. */
  readonly columns?: readonly string[];
  /** Why it could not be merged, though it is of a kind that can. */
  readonly failure?: WireFailure;
  /** Undefined as long as a conflict is open. */
  readonly merged: Uint8Array<ArrayBuffer> | undefined;
}

/** Reads files whole; for what is handed on. */
export interface ReadTask {
  readonly do: 'read';
  readonly place: ArrivalPlace;
  readonly files: readonly PlacedFile[];
}

export type DiskTask =
  | MergeTask
  | ReadTask
  | LookTask
  | ArrivalTask
  | BagTask
  | LookIntoBagTask
  | LookIntoArchiveTask
  | DigestInArchiveTask
  | UnpackTask
  | TakeOverTask
  | BackupTask
  | RestoreTask
  | ChangeTask
  | InspectTask;

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
  fetch: Brought;
  download: Record<string, never>;
  change: Record<string, never>;
  inspect: Inspected;
  bag: { readonly bytes: number };
  'look-into-bag': {
    readonly files: readonly BagFile[];
    readonly tags: readonly (readonly [path: string, text: string])[];
    /** Files of the payload that were wanted as texts. */
    readonly texts: readonly (readonly [path: string, text: string])[];
  };
  'look-into-archive': {
    readonly files: readonly ArchiveFile[];
    /** Short texts in which a mod may say what it is. */
    readonly texts: readonly (readonly [path: string, text: string])[];
  };
  'digest-in-archive': { readonly digests: readonly (readonly [path: string, sha256: string])[] };
  unpack: Record<string, never>;
  'take-over': Record<string, never>;
  merge: { readonly files: readonly MergedFile[] };
  read: { readonly bytes: readonly Uint8Array<ArrayBuffer>[] };
  backup: { readonly files: number; readonly bytes: number };
  restore: { readonly records: string; readonly files: number; readonly bytes: number };
}

export type DiskProgress = ({ readonly kind: 'bytes' } & Done) | ({ readonly kind: 'piece' } & PieceNews);

/** What a worker for disks does. */
export interface DiskWork extends Work {
  task: DiskTask;
  results: DiskResults;
  progress: DiskProgress;
}
