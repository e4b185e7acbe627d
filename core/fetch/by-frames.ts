import { chooseFrames, type Frame, type MissingPiece, REQUEST_BYTES } from '#core/bundles';
import { type ContentKey, keyPieceSize, keySize, pieceRange } from '#core/digest';
import { frameRuns, type HaulFrame, haulsOf } from './hauls';
import { type ByteRange, runsOf } from './runs';
import { fileHref } from './target';
import { type FetchItem, fetchTotals, isNowhere, isToCome, type PieceWhence } from './what-to-fetch';

/* What comes by frames of bundles, and what all of it costs on the wire. */

/** A frame of a bundle that a source has. */
export interface OfferedFrame extends Frame {
  /** Where the bundle is. */
  readonly href: string;
  /** Base address of the files that it builds on; empty where no source has them. */
  readonly baseHref: string;
}

/** A frame that is asked for, and what of it is wanted: contents go by the SHA-256 of their files. */
export interface PlannedFrame extends Omit<HaulFrame, 'parts'> {
  readonly parts: readonly {
    readonly sha256: string;
    readonly at: number;
    readonly start: number;
    readonly end: number;
  }[];
}

/** What is to be fetched, with what of it comes by frames. */
export interface Planned {
  readonly items: readonly FetchItem[];
  readonly frames: readonly PlannedFrame[];
}

/** What has to come of a content that lies nowhere, by one of the files that have it. */
function contentsToCome(items: readonly FetchItem[]): Map<ContentKey, FetchItem> {
  const contents = new Map<ContentKey, FetchItem>();
  for (const item of items)
    if (item.source.how === 'fetch' && !isNowhere(item) && !contents.has(item.key)) contents.set(item.key, item);
  return contents;
}

function piecesToCome({ source }: FetchItem): number[] {
  const pieces: number[] = [];
  if (source.how === 'fetch') source.pieces.forEach((piece, i) => isToCome(piece) && pieces.push(i));
  return pieces;
}

/** What of a frame is wanted, as parts that are as long as they can be. */
function partsOf(
  { parts }: Frame,
  pieces: readonly MissingPiece[],
  nameOf: (key: ContentKey) => string,
): PlannedFrame['parts'] {
  const wanted = new Map<ContentKey, number[]>();
  for (const [key, piece] of pieces) {
    const some = wanted.get(key);
    if (some) some.push(piece);
    else wanted.set(key, [piece]);
  }
  let at = 0;
  const all: PlannedFrame['parts'][number][] = [];
  for (const { key, start, end } of parts) {
    const own = wanted.get(key);
    if (own) {
      const ranges = own
        .map((piece) => pieceRange(keySize(key), piece, keyPieceSize(key)))
        .filter((range) => range.start >= start && range.end <= end);
      for (const run of runsOf(ranges, Infinity)) all.push({ sha256: nameOf(key), at: at + run.start - start, ...run });
    }
    at += end - start;
  }
  return all;
}

/**
 * Plans by which frames what is missing comes.
 * @param pathOf where a content lies on the disk; what else frames build on comes from its source, where that is worth it
 */
export function planFrames(
  items: readonly FetchItem[],
  offered: readonly OfferedFrame[],
  pathOf: (key: ContentKey) => string | undefined,
): Planned {
  const contents = contentsToCome(items);
  const missing = new Map([...contents].map(([key, item]) => [key, piecesToCome(item)]));
  const frames = chooseFrames(missing, offered, ({ key, start, end }, { baseHref }) => {
    if (pathOf(key) !== undefined) return 0;
    return baseHref === '' ? Infinity : end - start + REQUEST_BYTES;
  });
  const whences = new Map<ContentKey, PieceWhence[]>();
  for (const { frame, pieces } of frames) {
    const whence = frame.prefix.length > 0 ? 'rebuilt' : 'compressed';
    for (const [key, piece] of pieces) {
      let own = whences.get(key);
      if (!own) {
        const { source } = contents.get(key)!;
        whences.set(key, (own = source.how === 'fetch' ? [...source.pieces] : []));
      }
      own[piece] = whence;
    }
  }
  return {
    items: items.map((item) => {
      const pieces = whences.get(item.key);
      return pieces && item.source.how === 'fetch' ? { ...item, source: { how: 'fetch', pieces } } : item;
    }),
    frames: frames.map(({ frame, pieces }) => ({
      ...{ href: frame.href, start: frame.at, end: frame.at + frame.length, size: frame.size },
      prefix: frame.prefix.map(({ key, path, start, end }) => {
        const here = pathOf(key);
        return { ...(here === undefined ? { href: fileHref(frame.baseHref, path) } : { path: here }), start, end };
      }),
      parts: partsOf(frame, pieces, (key) => contents.get(key)!.sha256),
    })),
  };
}

/** What of a frame's prefix has to come. */
function prefixToCome({ prefix }: Pick<PlannedFrame, 'prefix'>): { bytes: number; requests: number } {
  const parts = prefix.filter((part) => 'href' in part);
  return { bytes: parts.reduce((sum, { start, end }) => sum + end - start, 0), requests: parts.length };
}

/** Of the frames that were planned for everything those that are worth it for some of it, each with what it brings of that. */
export const framesFor = (items: readonly FetchItem[], planned: readonly PlannedFrame[]): PlannedFrame[] =>
  framesForContents([...contentsToCome(items).values()], planned);

function framesForContents(wantedItems: readonly FetchItem[], planned: readonly PlannedFrame[]): PlannedFrame[] {
  const wanted = new Set(wantedItems.map(({ sha256 }) => sha256));
  return planned.flatMap((frame) => {
    const parts = frame.parts.filter(({ sha256 }) => wanted.has(sha256));
    const contents = new Set(parts.map(({ sha256 }) => sha256)).size;
    const plain = parts.reduce((sum, { start, end }) => sum + end - start, contents * REQUEST_BYTES);
    const { bytes, requests } = prefixToCome(frame);
    const cost = frame.end - frame.start + bytes + (1 + requests) * REQUEST_BYTES;
    return cost < plain ? [{ ...frame, parts }] : [];
  });
}

/** Frames as whoever brings a haul knows them: contents by the places of their files in it. */
export function haulFrames(frames: readonly PlannedFrame[], files: readonly Pick<FetchItem, 'sha256'>[]): HaulFrame[] {
  const places = new Map(files.map(({ sha256 }, i) => [sha256, i]));
  return frames.map((frame) => ({
    ...frame,
    parts: frame.parts.flatMap(({ sha256, ...part }) => {
      const file = places.get(sha256);
      return file === undefined ? [] : [{ ...part, file }];
    }),
  }));
}

/** What fetching takes. */
export interface WireCost {
  /** Bytes that come compressed, in frames, and those that come as they are. */
  readonly compressed: number;
  readonly plain: number;
  /** Where nothing goes wrong, and the source gives parts. */
  readonly requests: number;
}

/** What fetching some of what was planned takes, each content once. */
export function wireCost(items: readonly FetchItem[], planned: readonly PlannedFrame[] = []): WireCost {
  const contents = [...contentsToCome(items).values()];
  const frames = framesForContents(contents, planned);
  const brought = new Map<string, ByteRange[]>();
  let byFrames = 0;
  for (const { sha256, ...part } of frames.flatMap(({ parts }) => parts)) {
    byFrames += part.end - part.start;
    const ranges = brought.get(sha256);
    if (ranges) ranges.push(part);
    else brought.set(sha256, [part]);
  }
  const prefixes = frames.map(prefixToCome);
  const requests = haulsOf(contents, frames).reduce(
    (sum, { files, frames: some }) =>
      sum +
      frameRuns(some).length +
      files.reduce((all, file) => all + requestsForOne(file, brought.get(file.sha256) ?? []), 0),
    0,
  );
  return {
    compressed: frames.reduce((sum, { start, end }) => sum + end - start, 0),
    plain: prefixes.reduce((sum, { bytes }) => sum + bytes, fetchTotals(items).toFetch - byFrames),
    requests: prefixes.reduce((sum, prefix) => sum + prefix.requests, requests),
  };
}

/** Requests for what frames do not bring of a file. */
function requestsForOne(item: FetchItem, brought: readonly ByteRange[]): number {
  if (item.size === 0) return 0;
  const pieceSize = keyPieceSize(item.key);
  const left = new Set(piecesToCome(item));
  // What frames bring begins and ends with pieces.
  for (const { start, end } of brought)
    for (let piece = start / pieceSize; piece * pieceSize < end; piece++) left.delete(piece);
  return runsOf([...left].map((piece) => pieceRange(item.size, piece, pieceSize))).length;
}
