import {
  type ContentKey,
  contentKey,
  keyPieces,
  keyPieceSize,
  PIECE_SIZE,
  pieceBytes,
  pieceCount,
  pieceRange,
} from '#core/digest';
import { isBelow } from '#core/paths';
import { type FoundFile, keysByPath } from '#core/survey';
import type { TargetFile } from './target';

/** A piece of a file on disk with the same digest as one that is wanted. */
export interface PieceSource {
  readonly path: string;
  /** Where it begins in that file, in bytes. */
  readonly start: number;
  /** The folder beside the disk that has it, by what the disk calls that; the path is the disk's then. */
  readonly beside?: string | undefined;
}

/** Bytes `[start, end)` of a file on the disk. */
export interface FilePart {
  readonly path: string;
  readonly start: number;
  readonly end: number;
}

/** Bytes `[start, end)` of a file of a source. */
export interface SourcePart {
  readonly href: string;
  readonly start: number;
  readonly end: number;
}

/** Where a file of the target comes from. */
export type Source =
  /** Same path, same bytes. */
  | { readonly how: 'keep'; readonly path: string }
  /** Same bytes at another path. */
  | { readonly how: 'elsewhere'; readonly path: string }
  /** Lies in the store: was fetched before, or is kept by a change or for its own sake. The path is the disk's. */
  | { readonly how: 'stored'; readonly path: string }
  /** Regressum writes it. */
  | { readonly how: 'write' }
  /**
   * Has to come from a source, but for the pieces that lie on disk: one entry a piece; `inWhole` where the source gives all of the file or
   * nothing.
   */
  | { readonly how: 'fetch'; readonly pieces: readonly PieceWhence[]; readonly inWhole?: true };

/**
 * Where a piece comes from: a file on disk, an earlier fetch that was interrupted; a frame of a bundle, which rebuilds it from data on
 * disk or has it compressed; undefined = to fetch as it is.
 */
export type PieceWhence = PieceSource | 'arrived' | 'rebuilt' | 'compressed' | undefined;

/** Whether a piece has to come, in whatever form. */
export const isToCome = (piece: PieceWhence): piece is 'rebuilt' | 'compressed' | undefined =>
  piece === undefined || piece === 'rebuilt' || piece === 'compressed';

export interface FetchItem extends TargetFile {
  readonly source: Source;
}

export interface OnDisk {
  readonly contents: DiskContents;
  /** Where contents lie in the store, by their keys. */
  readonly stored: ReadonlyMap<ContentKey, string>;
  /** Pieces of files that are partly fetched, by the SHA-256 of the file. */
  readonly arrived?: ReadonlyMap<string, ReadonlySet<number>>;
  /** Where pieces lie in folders beside the disk. */
  readonly beside?: readonly { readonly name: string; readonly pieceAt: DiskContents['pieceAt'] }[];
}

/** Where each content and each piece lies on disk, to be asked of many targets. */
export interface DiskContents {
  readonly keyAt: ReadonlyMap<string, ContentKey>;
  readonly pathOf: ReadonlyMap<ContentKey, string>;
  /** Where a piece of so many bytes lies, by its digest. */
  readonly pieceAt: (piece: string, size: number) => PieceSource | undefined;
}

export function diskContents(files: readonly FoundFile[]): DiskContents {
  const pathOf = new Map<ContentKey, string>();
  // Most files are one piece, which is found as the content that it is.
  const inside = new Map<string, PieceSource>();
  for (const { path, size, key } of files) {
    if (!pathOf.has(key)) pathOf.set(key, path);
    if (size <= PIECE_SIZE) continue;
    const pieceSize = keyPieceSize(key);
    keyPieces(key).forEach((piece, index) => {
      if (!inside.has(piece)) inside.set(piece, { path, start: index * pieceSize });
    });
  }
  const pieceAt = (piece: string, size: number): PieceSource | undefined => {
    const path = size > PIECE_SIZE ? undefined : pathOf.get(contentKey(size, [piece]));
    return path === undefined ? inside.get(piece) : { path, start: 0 };
  };
  return { keyAt: keysByPath(files), pathOf, pieceAt };
}

type Content = Pick<TargetFile, 'size' | 'key' | 'sha256'>;

/** Asks where the pieces of contents come from that lie nowhere as a whole. */
function pieceFinder({ contents: { pieceAt }, arrived, beside = [] }: OnDisk) {
  const pieceBeside = (piece: string, size: number): PieceSource | undefined => {
    for (const { name, pieceAt: pieceThere } of beside) {
      const found = pieceThere(piece, size);
      if (found) return { ...found, beside: name };
    }
    return undefined;
  };
  return ({ size, key, sha256 }: Content) => {
    const [pieceSize, here] = [keyPieceSize(key), arrived?.get(sha256)];
    return (piece: string, i: number): PieceWhence => {
      const bytes = pieceBytes(size, i, pieceSize);
      return here?.has(i) ? 'arrived' : (pieceAt(piece, bytes) ?? pieceBeside(piece, bytes));
    };
  };
}

/** Says for each file of the target where its bytes come from; only what is nowhere on disk is to be fetched. */
export function whatToFetch(target: readonly TargetFile[], disk: OnDisk): FetchItem[] {
  const {
    contents: { keyAt, pathOf },
    stored,
  } = disk;
  const findPieces = pieceFinder(disk);
  const sourceOf = (file: TargetFile): Source => {
    const { path, key, owner } = file;
    if (keyAt.get(path) === key) return { how: 'keep', path };
    if (owner.kind === 'written') return { how: 'write' };
    const elsewhere = pathOf.get(key);
    if (elsewhere !== undefined) return { how: 'elsewhere', path: elsewhere };
    const kept = stored.get(key);
    if (kept !== undefined) return { how: 'stored', path: kept };
    return { how: 'fetch', pieces: keyPieces(key).map(findPieces(file)) };
  };
  return target.map((file) => ({ ...file, source: sourceOf(file) }));
}

/**
 * The bytes that have to come of each content that lies nowhere at hand: what `fetchTotals` says of the same files,
 * without making a tree of them.
 */
export function bytesToCome(wanted: Iterable<Content>, disk: OnDisk): Map<ContentKey, number> {
  const findPieces = pieceFinder(disk);
  const bytes = new Map<ContentKey, number>();
  for (const file of wanted) {
    const { size, key } = file;
    if (disk.contents.pathOf.has(key) || disk.stored.has(key) || bytes.has(key)) continue;
    const [whence, pieceSize] = [findPieces(file), keyPieceSize(key)];
    let missing = 0;
    for (const [i, piece] of keyPieces(key).entries())
      if (isToCome(whence(piece, i))) missing += pieceBytes(size, i, pieceSize);
    bytes.set(key, missing);
  }
  return bytes;
}

/** A file that somebody had of a mod, that lies nowhere any more, and that no service has. */
export const isNowhere = ({ source, href }: FetchItem): boolean => source.how === 'fetch' && href === '';

/** A part of what is to be fetched: a depot, what lies at a path or below it, some paths; of several, what is in all. */
export interface FetchPart {
  readonly depot?: string | undefined;
  readonly below?: string | undefined;
  readonly paths?: ReadonlySet<string> | undefined;
}

export const isPartOfFetch = ({ owner, path }: TargetFile, { depot, below, paths }: FetchPart = {}): boolean =>
  (paths === undefined || paths.has(path)) &&
  (depot === undefined || (owner.kind === 'depot' && owner.depot === depot)) &&
  (below === undefined || path === below || isBelow(path, below));

/** The bytes `[start, end)` of each of a file's pieces, in order. */
export function piecesOf({ size, key }: Pick<TargetFile, 'size' | 'key'>): { start: number; end: number }[] {
  const pieceSize = keyPieceSize(key);
  return Array.from({ length: pieceCount(size, pieceSize) }, (_, i) => pieceRange(size, i, pieceSize));
}

/**
 * Bytes, as they lie in files, and files by where they come from, without those that are to be had nowhere. `reused` are pieces on disk inside
 * files that are fetched otherwise, `beside` those in other folders, `toFetch` is all that has to come, of which `rebuilt` and `compressed` come by frames of bundles;
 * `written` is what fetching writes into the store.
 */
export function fetchTotals(items: readonly FetchItem[]): {
  onHand: number;
  moved: number;
  reused: number;
  beside: number;
  stored: number;
  rebuilt: number;
  compressed: number;
  toFetch: number;
  written: number;
  filesToFetch: number;
} {
  const totals = {
    ...{
      onHand: 0,
      moved: 0,
      reused: 0,
      beside: 0,
      stored: 0,
      rebuilt: 0,
      compressed: 0,
      toFetch: 0,
      written: 0,
      filesToFetch: 0,
    },
  };
  const toCome = new Set<ContentKey>();
  for (const item of items) {
    if (isNowhere(item)) continue;
    const { size, source, key } = item;
    switch (source.how) {
      case 'keep':
      case 'write':
        totals.onHand += size;
        break;
      case 'elsewhere':
        totals.moved += size;
        break;
      case 'stored':
        totals.stored += size;
        break;
      case 'fetch':
        // A content that is wanted at two places comes once.
        if (toCome.has(key)) {
          totals.moved += size;
          break;
        }
        toCome.add(key);
        totals.filesToFetch++;
        for (const [i, whence] of source.pieces.entries()) {
          const bytes = pieceBytes(size, i, keyPieceSize(key));
          totals[whence === 'arrived' ? 'stored' : 'written'] += bytes;
          if (isToCome(whence)) totals.toFetch += bytes;
          if (whence === 'arrived') continue;
          if (whence === 'rebuilt' || whence === 'compressed') totals[whence] += bytes;
          else if (whence) totals[whence.beside === undefined ? 'reused' : 'beside'] += bytes;
        }
    }
  }
  return totals;
}
