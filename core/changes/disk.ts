import type { Sha256 } from '#core/digest';
import type { Folder, HashOutcome, HashWish, StopSignal } from '#core/folders';

/** All that lies on a disk for one install: its trees, one of which is the game's folder, and the store beside them. */
export interface Disk extends Folder {
  /** The tree that is the game's folder. */
  current(): Promise<string>;
  /**
   * Makes the tree `to` the game's folder; the one that was it is `from` afterwards. When it is cut off, doing it again
   * ends it.
   */
  exchange(from: string, to: string): Promise<void>;
}

/** What running a change set needs of the platform. */
export interface ChangePorts {
  readonly disk: Disk;
  readonly sha256: Sha256;
  /** Hashes files where they lie, one outcome each, in order. */
  hash(files: readonly HashWish[]): Promise<readonly HashOutcome[]>;
  encode(text: string): Uint8Array<ArrayBuffer>;
  /** Strict: throws where the bytes are no UTF-8. */
  decode(bytes: Uint8Array<ArrayBuffer>): string;
  /** Milliseconds since 1970. */
  now(): number;
  readonly signal: StopSignal;
  progress(done: { files: number; bytes: number }): void;
}
