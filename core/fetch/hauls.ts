import { type ContentKey, keyPieces } from '#core/digest';
import type { PieceSource } from './what-to-fetch';

/** A file that is to come. */
export interface HaulFile {
  /** What it is called in the store. */
  readonly name: string;
  /** Where its bytes are; empty where all of them lie elsewhere on the disk. */
  readonly href: string;
  /** Where they are to be had too. */
  readonly mirrors?: readonly string[] | undefined;
  readonly size: number;
  readonly key: ContentKey;
  /** Where pieces lie; undefined ones are fetched. */
  readonly sources: readonly (PieceSource | undefined)[];
  /** Where it begins in a pack, for a file that is one piece. */
  readonly packedAt?: number | undefined;
}

/** Bytes `[start, end)` of a file that holds small files after one another. */
export interface PackRange {
  readonly href: string;
  readonly start: number;
  readonly end: number;
}

/** Files that are fetched together by one worker; with a pack, out of that where it can be had. */
export interface Haul {
  readonly files: readonly HaulFile[];
  readonly pack?: PackRange | undefined;
}

/** Where a small file lies besides its own address: in which pack, and at which byte. */
export interface Packed {
  readonly href: string;
  readonly start: number;
}

/** What has to be known of a file to put it with others. */
export interface Haulable {
  readonly size: number;
  readonly key: ContentKey;
  readonly packed?: Packed | undefined;
}

/** What is fetched together: so many that what it costs to hand them out is small, and so few that a pause comes soon. */
const MOST_BYTES = 8 << 20;
const MOST_FILES = 16;
/** Of a pack, in one request. */
const MOST_PACKED = 500;
/** Bytes of a pack that nobody needs and that come along, rather than to ask once more. */
const GAP = 16 << 10;

/** Neighbours in a pack, as runs that are asked for together. A file that has no neighbour there is asked for by itself. */
function packRuns<T extends Haulable>(files: readonly T[]): { files: T[]; pack: PackRange }[] {
  const byPack = new Map<string, { file: T; start: number; end: number }[]>();
  for (const file of files) {
    const { packed, size, key } = file;
    if (!packed || size === 0 || keyPieces(key).length > 1) continue;
    const some = byPack.get(packed.href) ?? [];
    byPack.set(packed.href, some);
    some.push({ file, start: packed.start, end: packed.start + size });
  }
  const runs: { files: T[]; pack: { href: string; start: number; end: number } }[] = [];
  for (const [href, some] of byPack) {
    let run: (typeof runs)[number] | undefined;
    for (const { file, start, end } of some.toSorted((a, b) => a.start - b.start)) {
      const fits =
        run &&
        start >= run.pack.end &&
        start - run.pack.end <= GAP &&
        end - run.pack.start <= MOST_BYTES &&
        run.files.length < MOST_PACKED;
      if (run && fits) {
        run.files.push(file);
        run.pack.end = end;
      } else runs.push((run = { files: [file], pack: { href, start, end } }));
    }
  }
  return runs.filter((run) => run.files.length > 1);
}

/**
 * Puts files together that are fetched at a time: neighbours in a pack, a large one by itself, small ones with others.
 * @param files largest first: at the end only small ones are under way, and nobody waits long for the others
 */
export function haulsOf<T extends Haulable>(
  files: readonly T[],
): { readonly files: readonly T[]; readonly pack?: PackRange }[] {
  const runs = packRuns(files);
  const inPack = new Set(runs.flatMap((run) => run.files));
  const hauls: { files: T[] }[] = [];
  let haul: T[] = [];
  let bytes = 0;
  for (const file of files) {
    if (inPack.has(file)) continue;
    if (haul.length > 0 && (haul.length >= MOST_FILES || bytes + file.size > MOST_BYTES)) {
      hauls.push({ files: haul });
      [haul, bytes] = [[], 0];
    }
    haul.push(file);
    bytes += file.size;
  }
  if (haul.length > 0) hauls.push({ files: haul });
  return [...hauls, ...runs];
}

/**
 * Where files lie in a pack: those of at most `most` bytes, after one another in the order of the manifest.
 * @param files of the manifest
 */
export function placesInPack(
  files: Iterable<{ readonly path: string; readonly size: number }>,
  most: number,
): Map<string, number> {
  const places = new Map<string, number>();
  let at = 0;
  for (const { path, size } of files) {
    if (size > most) continue;
    places.set(path, at);
    at += size;
  }
  return places;
}
