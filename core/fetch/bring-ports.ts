import type { Unpack } from '#core/bundles';
import { type ArrivalFolder, contentPath } from '#core/contents';
import type { Sha256 } from '#core/digest';
import type { FolderReader, StopSignal } from '#core/folders';
import { isFailure, type WireFailure } from '#core/failure';
import type { HaulFile } from './hauls';
import type { ByteRange } from './runs';
import type { Throttle } from './throttle';
import { piecesOf } from './what-to-fetch';

/* What bringing files needs, and what it tells. */

/** A SHA-256 of bytes as they come. */
export interface StreamHash {
  update(bytes: Uint8Array): void;
  /** @returns hexadecimal digits */
  digest(): string;
}

/** What happens to a piece while its file is fetched. */
export type PieceState = 'to-come' | 'on-hand' | 'reused' | 'arriving' | 'failing' | 'checked';

/** News of a piece; `file` is the file's place in the haul, `bytes` counts those that are right now. */
export interface PieceNews {
  readonly file: number;
  readonly index: number;
  readonly state: PieceState;
  readonly bytes: number;
  /** What has come of the haul so far: one that is cut off tells no more. */
  readonly soFar: BroughtSoFar;
}

/** What bringing needs of the platform. */
export interface BringPorts {
  readonly folder: ArrivalFolder;
  /** The folder that pieces are taken from that lie elsewhere. */
  readonly from: Pick<FolderReader, 'open'>;
  readonly sha256: Sha256;
  readonly newHash: () => StreamHash;
  /**
   * A file as it comes, or a part of it.
   * @throws Failure `service/*`; `service/no-ranges` where a part was asked for and the source gives none
   */
  readonly open: (
    href: string,
    range: ByteRange | undefined,
    signal: StopSignal,
  ) => Promise<AsyncIterable<Uint8Array<ArrayBuffer>>>;
  readonly unpack: Unpack;
  readonly wait: (milliseconds: number) => Promise<void>;
  /** Milliseconds since any moment. */
  readonly now: () => number;
  /** What may come at most; undefined = whatever the line gives. */
  readonly bytesPerSecond?: number | undefined;
  readonly progress: (news: PieceNews) => void;
  readonly signal: StopSignal;
}

/** What came of a haul, in bytes and requests. */
export interface BroughtSoFar {
  readonly fetchedBytes: number;
  readonly reusedBytes: number;
  /** What the sources sent, right or wrong. */
  readonly wireBytes: number;
  readonly requests: number;
}

export const NOTHING_BROUGHT: BroughtSoFar = { fetchedBytes: 0, reusedBytes: 0, wireBytes: 0, requests: 0 };

/** What came of a haul in the end, and what of it could not be had. */
export interface Brought extends BroughtSoFar {
  /** Whether a source has put off some of it: it was busy, or out of reach. */
  readonly wasBusy: boolean;
  readonly failed: readonly { readonly file: number; readonly failure: WireFailure }[];
}

/** How often something is asked for without anything of it coming, before it is left to a later round. */
export const MAX_TRIES = 4;

export type Counts = { -readonly [Sum in keyof BroughtSoFar]: BroughtSoFar[Sum] } & { wasBusy: boolean };

export const soFar = ({ fetchedBytes, reusedBytes, wireBytes, requests }: Counts): BroughtSoFar => ({
  ...{ fetchedBytes, reusedBytes, wireBytes, requests },
});

/** A file on its way. */
export interface Coming {
  readonly file: HaulFile;
  readonly part: string;
  readonly ports: BringPorts;
  readonly counts: Counts;
  readonly throttle: Throttle | undefined;
  readonly tell: (index: number, state: PieceState, bytes: number) => void;
}

/** Puts a part down anew. It needs not be whole at every moment, and others are put down beside it. */
export async function putAnew(folder: ArrivalFolder, part: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
  if (await folder.stat(part)) await folder.remove(part);
  await folder.writeAt(part, 0, bytes);
}

/** Whether a file is in place though it could not be put there: another fetch of the same content, of another page, has done so. */
export async function wasTakenIn({ file, ports, tell }: Coming, error: unknown): Promise<boolean> {
  if (!isFailure(error, 'folder/not-found') || !(await ports.folder.stat(contentPath(file.name)))) return false;
  for (const [index, { start, end }] of piecesOf(file).entries()) tell(index, 'on-hand', end - start);
  return true;
}
