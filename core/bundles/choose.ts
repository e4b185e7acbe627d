import { type ContentKey, keyPieceSize, pieceCount } from '#core/digest';
import type { Frame, PrefixPart } from './frames';

/* Which frames to ask for, so that what is missing comes by the fewest bytes on the wire. */

/** What a request costs besides what it is about: its head and that of its answer. */
export const REQUEST_BYTES = 300;

/** Pieces of contents that are missing, by their numbers. */
export type Missing = ReadonlyMap<ContentKey, Iterable<number>>;

/** A piece of a content, by its number. */
export type MissingPiece = readonly [key: ContentKey, piece: number];

/** A frame to ask for, and the pieces that it is asked for of. */
export interface Chosen<F> {
  readonly frame: F;
  readonly pieces: readonly MissingPiece[];
}

interface Candidate<F> {
  readonly frame: F;
  /** Bytes that it cost a byte that it brought, when that was last looked at. */
  cost: number;
}

/** What it takes in bytes on the wire. */
export interface Costs<F> {
  /** To have part of a frame's prefix: none for what lies on the disk, no end of them for what is to be had nowhere. */
  readonly prefix: (part: PrefixPart, frame: F) => number;
  /** To ask for a missing piece by itself, without what its request costs. */
  readonly piece: (key: ContentKey, piece: number) => number;
}

/**
 * Chooses frames for what is missing: always the one that costs least for what it still brings, until what is left costs less by itself.
 * @returns those that bring most for their bytes first
 */
export function chooseFrames<F extends Frame>(missing: Missing, frames: readonly F[], costs: Costs<F>): Chosen<F>[] {
  const left = new Map([...missing].map(([key, pieces]) => [key, new Set(pieces)]));
  const piecesIn = ({ parts }: F): MissingPiece[] => {
    const all: MissingPiece[] = [];
    for (const { key, start, end } of parts) {
      const wanted = left.get(key);
      if (!wanted) continue;
      const size = keyPieceSize(key);
      const last = pieceCount(end, size);
      for (let piece = start / size; piece < last; piece++) if (wanted.has(piece)) all.push([key, piece]);
    }
    return all;
  };
  /** What asking for them by themselves would cost. */
  const plainCost = (pieces: readonly MissingPiece[]): number => {
    const contents = new Set(pieces.map(([key]) => key));
    return pieces.reduce((bytes, [key, piece]) => bytes + costs.piece(key, piece), contents.size * REQUEST_BYTES);
  };
  const wire = new Map(
    frames.map((frame) => [
      frame,
      frame.prefix.reduce((bytes, part) => bytes + costs.prefix(part, frame), frame.length + REQUEST_BYTES),
    ]),
  );
  const costOf = (frame: F, pieces: readonly MissingPiece[]): number => {
    const saved = plainCost(pieces);
    return saved === 0 ? Infinity : wire.get(frame)! / saved;
  };
  const open = new Queue<F>();
  for (const frame of frames)
    if (Number.isFinite(wire.get(frame))) open.push({ frame, cost: costOf(frame, piecesIn(frame)) });
  const chosen: Chosen<F>[] = [];
  for (let best = open.pop(); best && best.cost < 1; best = open.pop()) {
    // What others have brought meanwhile is worth nothing any more.
    const pieces = piecesIn(best.frame);
    const cost = costOf(best.frame, pieces);
    if (cost > best.cost) {
      open.push({ frame: best.frame, cost });
      continue;
    }
    for (const [key, piece] of pieces) left.get(key)!.delete(piece);
    chosen.push({ frame: best.frame, pieces });
  }
  return chosen;
}

/** Gives the candidate of the least cost first (a binary heap). */
class Queue<F> {
  readonly #all: Candidate<F>[] = [];

  push(one: Candidate<F>): void {
    const all = this.#all;
    let at = all.push(one) - 1;
    for (let up = (at - 1) >> 1; at > 0 && all[up]!.cost > one.cost; at = up, up = (at - 1) >> 1) all[at] = all[up]!;
    all[at] = one;
  }

  pop(): Candidate<F> | undefined {
    const all = this.#all;
    const [first] = all;
    const last = all.pop();
    if (!last || all.length === 0) return first;
    let at = 0;
    for (;;) {
      let down = 2 * at + 1;
      if (down + 1 < all.length && all[down + 1]!.cost < all[down]!.cost) down += 1;
      if (down >= all.length || all[down]!.cost >= last.cost) break;
      all[at] = all[down]!;
      at = down;
    }
    all[at] = last;
    return first;
  }
}
