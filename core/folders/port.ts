import { Failure, type FailureCode } from '#core/failure';

export interface FolderEntry {
  /** Relative to the folder, `/` between its parts. */
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
}

/** Hears of a list while it is made. */
export interface ListListener {
  /** Is called now and then with the number of files that were found since. */
  readonly found?: (files: number) => void;
  /** Is called for each file or folder that could not be looked at; what is in such a folder is not in the list. */
  readonly refused?: (path: string, code: FailureCode) => void;
}

/** A file that is being read. Ranges may be read one after the other or at once; it has to be closed. */
export interface OpenFile {
  /** Bytes. */
  readonly size: number;
  /**
   * Bytes `[start, end)`; fewer where the file ends earlier.
   * @param into memory of at least that length to read into, where the adapter can: the answer may be a part of it
   */
  read(start: number, end: number, into?: Uint8Array<ArrayBuffer>): Promise<Uint8Array<ArrayBuffer>>;
  close(): void;
}

export interface FolderAbilities {
  readonly write: boolean;
  readonly move: boolean;
  readonly readOnlyFlag: boolean;
  /** A file can be given a time: what is copied keeps that of its file. What is moved keeps it everywhere. */
  readonly times: boolean;
  readonly freeSpace: boolean;
}

/**
 * A folder on somebody's disk, to look at. Paths are relative, `/` between their parts; a file that is not there is
 * refused with `folder/not-found`, one that may not be read with `folder/no-permission`.
 * `core/testing/folder-contract.ts` says what every adapter holds to.
 */
export interface FolderReader {
  readonly can: FolderAbilities;
  /** Every file below `folder` (all of them for `''`), sorted by path; a folder that is not there has none. */
  list(folder?: string, listener?: ListListener): Promise<FolderEntry[]>;
  stat(path: string): Promise<FolderEntry | undefined>;
  /** @param likelySize of the file, as it was listed: large ones are opened in another way where that is faster */
  open(path: string, likelySize?: number): Promise<OpenFile>;
  /** Bytes `[start, end)` of a file that is opened for this alone. */
  read(path: string, start?: number, end?: number): Promise<Uint8Array<ArrayBuffer>>;
  /** Bytes in use and free, as far as the platform tells. */
  room(): Promise<{ used: number; free: number } | undefined>;
  /**
   * Hashes files, or some pieces of them, where they lie: for folders that do better by that than by handing out bytes.
   * @param told is called for each outcome as it comes
   * @returns one outcome a file, in their order
   */
  hash?(
    files: readonly HashWish[],
    signal: StopSignal,
    told: (outcome: HashOutcome) => void,
  ): Promise<readonly HashOutcome[]>;
}

/** As much of the platform's `AbortSignal` as is asked of it here. */
export interface StopSignal {
  readonly aborted: boolean;
  addEventListener(type: 'abort', listener: () => void): void;
  removeEventListener(type: 'abort', listener: () => void): void;
}

/** A file to hash; with a span only its pieces from `first` up to, and without, `end`. */
export interface HashWish {
  readonly path: string;
  readonly size: number;
  /** Bytes of the pieces that it is cut into, where they are not the usual ones. */
  readonly pieceSize?: number | undefined;
  readonly span?: undefined | { readonly first: number; readonly end: number };
}

/** The size of a file, the SHA-256 of the pieces and how many bytes those are; or why it could not be read. */
export type HashOutcome =
  | { readonly size: number; readonly bytes: number; readonly pieces: readonly string[] }
  | { readonly code: FailureCode };

/** A folder that can be changed. A full disk is refused with `folder/full`, a flagged file with `folder/read-only`. */
export interface Folder extends FolderReader {
  /** Puts a whole file in place, making its folders; whoever reads sees the old bytes or the new, never a mixture. */
  writeWhole(path: string, bytes: Uint8Array<ArrayBuffer>): Promise<void>;
  /** Writes bytes at an offset, for files that arrive in pieces. A gap is filled with zeros; not atomic. */
  writeAt(path: string, offset: number, bytes: Uint8Array<ArrayBuffer>): Promise<void>;
  /** Moves one file, over an existing one too. */
  move(from: string, to: string): Promise<void>;
  /** Removes a file, or a folder with everything in it; `''` empties the whole. What is not there is no error. */
  remove(path: string): Promise<void>;
  /** Copies one file whole into a place where nothing lies or what lies there may go; a clone where the disk can. */
  copy(from: string, to: string): Promise<void>;
  /** Returns when these files, and the names of all of them, outlast a loss of power, as far as the platform can tell. */
  sync(paths: readonly string[]): Promise<void>;
  setReadOnly(path: string, readOnly: boolean): Promise<void>;
  /**
   * Gives a file a time, where the folder `can`.
   * @param modified milliseconds since 1970
   */
  setModified(path: string, modified: number): Promise<void>;
  isReadOnly(path: string): Promise<boolean>;
}

/** Of a folder that gives no file a time. @throws Failure `folder/no-permission` */
export async function noTimes(path: string): Promise<never> {
  throw new Failure('folder/no-permission', { path });
}

export const LOOK_ONLY: FolderAbilities = {
  ...{ write: false, move: false, readOnlyFlag: false, times: false, freeSpace: false },
};
