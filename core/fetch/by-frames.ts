import { chooseFrames, type Frame, type MissingPiece, REQUEST_BYTES } from '#core/bundles';
import { type ContentKey, keyPieceSize, keySize, pieceBytes, pieceRange } from '#core/digest';
import { frameRuns, type HaulFrame, haulsOf } from './hauls';
import { type ByteRange, runsOf } from './runs';
import { fileHref } from './target';
import { type FetchItem, isNowhere, isToCome, type PieceWhence } from './what-to-fetch';

/* What comes by frames of bundles, and what all of it costs on the wire. */

/** A frame of a bundle that a source has. */
export interface OfferedFrame extends Frame {
  /** Where the bundle is. */
  readonly href: string;
  /** Base address of the files that it builds on; empty where no source has them. */
  readonly baseHref: string;
  /** Whether its source gives all of the bundle or nothing. */
  readonly inWhole?: boolean | undefined;
}

/** Parts of files of a bundle that comes as a whole, at the most: all of them are handed to one worker. */
const MOST_TOGETHER = 100_000;

/** Frames that are asked for together: one, or of a bundle that comes as a whole all that are of use. */
interface Offer extends Frame {
  readonly frames: readonly OfferedFrame[];
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

const isInWhole = ({ source }: FetchItem): boolean => source.how === 'fetch' && source.inWhole === true;

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

/** Pieces by their contents. */
function byContent(pieces: readonly MissingPiece[]): Map<ContentKey, number[]> {
  const contents = new Map<ContentKey, number[]>();
  for (const [key, piece] of pieces) {
    const some = contents.get(key);
    if (some) some.push(piece);
    else contents.set(key, [piece]);
  }
  return contents;
}

/** What of a frame is wanted, as parts that are as long as they can be. */
function partsOf(
  { parts }: Frame,
  pieces: readonly MissingPiece[],
  nameOf: (key: ContentKey) => string,
): PlannedFrame['parts'] {
  const wanted = byContent(pieces);
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

/** What can be asked for: of bundles that come as a whole only what builds on what is here, since no part of anything else can be had. */
function offersOf(offered: readonly OfferedFrame[], isHere: (key: ContentKey) => boolean): Offer[] {
  const some = offered.filter(({ inWhole, prefix }) => !inWhole || prefix.every(({ key }) => isHere(key)));
  return togetherOf(some).flatMap((frames): Offer[] => {
    const [first] = frames;
    if (!first!.inWhole) return [{ ...first!, frames }];
    const length = frames.reduce((most, frame) => Math.max(most, frame.at + frame.length), 0);
    const parts = frames.flatMap((frame) => frame.parts);
    if (parts.length > MOST_TOGETHER) return [];
    return [{ at: 0, length, size: 0, parts, prefix: [], baseHref: '', frames }];
  });
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
  // Of a file that comes as a whole each piece that is missing has its share in all of it.
  const shares = new Map<ContentKey, number>();
  for (const [key, item] of contents) if (isInWhole(item)) shares.set(key, item.size / missing.get(key)!.length);
  const isHere = (key: ContentKey): boolean => pathOf(key) !== undefined;
  const offers = chooseFrames(missing, offersOf(offered, isHere), {
    prefix({ key, start, end }, { baseHref }) {
      if (isHere(key)) return 0;
      return baseHref === '' ? Infinity : end - start + REQUEST_BYTES;
    },
    piece: (key, piece) => shares.get(key) ?? pieceBytes(keySize(key), piece, keyPieceSize(key)),
  });
  const frames = offers.flatMap(({ frame: { frames: some }, pieces }) =>
    some.length === 1 ? [{ frame: some[0]!, pieces }] : piecesByFrame(some, pieces),
  );
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
      return pieces && item.source.how === 'fetch' ? { ...item, source: { ...item.source, pieces } } : item;
    }),
    frames: frames.map(({ frame, pieces }) => ({
      ...{ href: frame.href, start: frame.at, end: frame.at + frame.length, size: frame.size },
      ...(frame.inWhole && { inWhole: true }),
      prefix: frame.prefix.map(({ key, path, start, end }) => {
        const here = pathOf(key);
        return { ...(here === undefined ? { href: fileHref(frame.baseHref, path) } : { path: here }), start, end };
      }),
      parts: partsOf(frame, pieces, (key) => contents.get(key)!.sha256),
    })),
  };
}

/** Pieces that frames bring together, by the frame that has them. */
function piecesByFrame(
  frames: readonly OfferedFrame[],
  pieces: readonly MissingPiece[],
): { frame: OfferedFrame; pieces: MissingPiece[] }[] {
  const wanted = byContent(pieces);
  return frames.flatMap((frame) => {
    const own = frame.parts.flatMap(({ key, start, end }) =>
      (wanted.get(key) ?? []).flatMap((piece): MissingPiece[] => {
        const range = pieceRange(keySize(key), piece, keyPieceSize(key));
        return range.start >= start && range.end <= end ? [[key, piece]] : [];
      }),
    );
    return own.length > 0 ? [{ frame, pieces: own }] : [];
  });
}

/** What of frames' prefixes has to come. */
function prefixToCome(frames: readonly Pick<PlannedFrame, 'prefix'>[]): { bytes: number; requests: number } {
  const parts = frames.flatMap(({ prefix }) => prefix.filter((part) => 'href' in part));
  return { bytes: parts.reduce((sum, { start, end }) => sum + end - start, 0), requests: parts.length };
}

/** Of the frames that were planned for everything those that are worth it for some of it, each with what it brings of that. */
export const framesFor = (items: readonly FetchItem[], planned: readonly PlannedFrame[]): PlannedFrame[] =>
  framesForContents([...contentsToCome(items).values()], planned);

function framesForContents(wantedItems: readonly FetchItem[], planned: readonly PlannedFrame[]): PlannedFrame[] {
  const wanted = new Map(wantedItems.map((item) => [item.sha256, item]));
  return togetherOf(planned).flatMap((frames) => {
    const some = frames.flatMap((frame) => {
      const parts = frame.parts.filter(({ sha256 }) => wanted.has(sha256));
      return parts.length > 0 ? [{ ...frame, parts }] : [];
    });
    const brought = new Map<string, number>();
    for (const { sha256, start, end } of some.flatMap(({ parts }) => parts))
      brought.set(sha256, (brought.get(sha256) ?? 0) + end - start);
    let plain = 0;
    for (const [sha256, bytes] of brought) {
      const item = wanted.get(sha256)!;
      plain += (isInWhole(item) ? item.size : bytes) + REQUEST_BYTES;
    }
    const { bytes, requests } = prefixToCome(some);
    return wireOf(some) + bytes + (1 + requests) * REQUEST_BYTES < plain ? some : [];
  });
}

/** Frames of each bundle that comes as a whole together, and every other one by itself. */
function togetherOf<F extends Pick<HaulFrame, 'href' | 'inWhole'>>(frames: readonly F[]): F[][] {
  const all: F[][] = [];
  const bundles = new Map<string, F[]>();
  for (const frame of frames) {
    const known = frame.inWhole ? bundles.get(frame.href) : undefined;
    if (known) known.push(frame);
    else all.push([frame]);
    if (frame.inWhole && !known) bundles.set(frame.href, all.at(-1)!);
  }
  return all;
}

/** Bytes on the wire of frames that come together: of a bundle that comes as a whole all up to the last of them. */
const wireOf = (frames: readonly PlannedFrame[]): number =>
  frames[0]?.inWhole
    ? frames.reduce((most, { end }) => Math.max(most, end), 0)
    : frames.reduce((sum, { start, end }) => sum + end - start, 0);

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
  for (const { sha256, ...part } of frames.flatMap(({ parts }) => parts)) {
    const ranges = brought.get(sha256);
    if (ranges) ranges.push(part);
    else brought.set(sha256, [part]);
  }
  const prefix = prefixToCome(frames);
  let [plain, requests] = [prefix.bytes, prefix.requests];
  for (const item of contents) {
    const left = leftOfOne(item, brought.get(item.sha256) ?? []);
    plain += left.bytes;
    requests += left.requests;
  }
  for (const { frames: some } of haulsOf(contents, frames)) requests += frameRuns(some).length;
  return { compressed: togetherOf(frames).reduce((sum, some) => sum + wireOf(some), 0), plain, requests };
}

/** What has to come of a file that frames do not bring. */
function leftOfOne(item: FetchItem, brought: readonly ByteRange[]): { bytes: number; requests: number } {
  const pieceSize = keyPieceSize(item.key);
  const left = new Set(piecesToCome(item));
  // What frames bring begins and ends with pieces.
  for (const { start, end } of brought)
    for (let piece = start / pieceSize; piece * pieceSize < end; piece++) left.delete(piece);
  if (left.size === 0 || item.size === 0) return { bytes: 0, requests: 0 };
  const ranges = [...left].map((piece) => pieceRange(item.size, piece, pieceSize));
  // It is read up to the last piece that is missing.
  if (isInWhole(item)) return { bytes: ranges.at(-1)!.end, requests: 1 };
  return { bytes: ranges.reduce((sum, { start, end }) => sum + end - start, 0), requests: runsOf(ranges).length };
}
