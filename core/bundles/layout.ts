import type { ContentKey } from '#core/digest';
import { keyPieceSize } from '#core/digest';
import { type IndexPart, MOST_PARTS } from './schema';

/* What goes into which frame of a bundle, and what it begins with. */

/** A file of a depot, in the order of its manifest. */
export interface BundledFile {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
}

/** What a frame is to unpack to, and its prefix, by numbers of files. */
export interface FrameLayout {
  readonly parts: readonly IndexPart[];
  readonly prefix: readonly IndexPart[];
}

/** Bytes of a frame without a prefix: the larger, the more of it is alike; whoever wants one file of it gets all. */
const WHOLE_FRAME = 16 << 20;
/** Around where a part lay before, as much belongs to its prefix too: data shifts. */
const MARGIN = 512 << 10;

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1).toLowerCase();

function extensionOf(path: string): string {
  const name = nameOf(path);
  return name.slice(Math.max(0, name.lastIndexOf('.')));
}

/** Folders that two paths have in common, from the file on. */
function sharedFolders(a: string, b: string): number {
  const [one, other] = [a.split('/').toReversed(), b.split('/').toReversed()];
  let shared = 0;
  while (shared < one.length && one[shared] === other[shared]) shared += 1;
  return shared;
}

/** Finds the file that another one is likely to have been: at its path, else of its name. */
function finder(base: readonly BundledFile[]): (path: string) => number | undefined {
  const byPath = new Map(base.map(({ path }, i) => [path, i]));
  const byName = new Map<string, number[]>();
  base.forEach(({ path }, i) => {
    const some = byName.get(nameOf(path));
    if (some) some.push(i);
    else byName.set(nameOf(path), [i]);
  });
  return (path) => {
    const same = byPath.get(path);
    if (same !== undefined) return same;
    const some = byName.get(nameOf(path)) ?? [];
    const shared = (i: number): number => sharedFolders(base[i]!.path, path);
    return some.reduce<number | undefined>(
      (best, i) => (best === undefined || shared(i) > shared(best) ? i : best),
      undefined,
    );
  };
}

/** A frame that is being filled. */
class Filling {
  readonly parts: IndexPart[] = [];
  readonly prefix: IndexPart[] = [];
  size = 0;
  prefixSize = 0;
  /** Numbers of the files that its prefix has. */
  readonly mates = new Set<number>();
}

/** The order in which files lie beside those that are like them. */
const byLikeness = (a: BundledFile, b: BundledFile): number => {
  const [one, other] = [extensionOf(a.path), extensionOf(b.path)];
  if (one !== other) return one < other ? -1 : 1;
  return a.path < b.path ? -1 : 1;
};

const partOf = (file: number, size: number, start: number, end: number): IndexPart =>
  start === 0 && end === size ? file : [file, start, end];

/**
 * Lays the files of a depot out in frames: each content once, files that are like each other together, large ones in several frames. A file
 * whose publisher cuts it into pieces that are larger than a frame is left out.
 * @param base files of the build that is had: what they have as well is left out, and the others begin with what they were
 * @param lookBack bytes that a frame with a prefix has, and about as many of its prefix: what whoever compresses it looks back over
 */
export function layoutFrames(
  files: readonly BundledFile[],
  base?: readonly BundledFile[],
  lookBack = 4 << 20,
): FrameLayout[] {
  const most = base ? lookBack : WHOLE_FRAME;
  const mostPrefix = lookBack + 2 * MARGIN;
  const known = new Set(base?.map(({ key }) => key));
  const mateOf = finder(base ?? []);
  const frames: FrameLayout[] = [];
  let now = new Filling();
  const close = (): void => {
    if (now.parts.length > 0) frames.push({ parts: now.parts, prefix: now.prefix });
    now = new Filling();
  };
  const inOrder = [...files.entries()].toSorted(([, a], [, b]) => byLikeness(a, b));
  for (const [number, { path, size, key }] of inOrder) {
    if (size === 0 || known.has(key) || keyPieceSize(key) > most) continue;
    known.add(key);
    const mate = mateOf(path);
    for (let start = 0; start < size; start += most) {
      const end = Math.min(size, start + most);
      const had = mate === undefined ? undefined : stretch(base![mate]!.size, size, [start, end], mostPrefix);
      const adds = had ? had.end - had.start : 0;
      const isFull = now.parts.length === MOST_PARTS || now.size + end - start > most;
      if (isFull || (adds > 0 && now.prefixSize + adds > mostPrefix)) close();
      now.parts.push(partOf(number, size, start, end));
      now.size += end - start;
      if (!had || now.mates.has(mate!)) continue;
      now.mates.add(mate!);
      now.prefix.push(partOf(mate!, base![mate!]!.size, had.start, had.end));
      now.prefixSize += adds;
    }
  }
  close();
  return frames;
}

/** Where in a file of `was` bytes lies what bytes `[start, end)` of one of `size` bytes were; undefined behind its end. */
function stretch(
  was: number,
  size: number,
  [start, end]: readonly [number, number],
  most: number,
): { readonly start: number; readonly end: number } | undefined {
  if (was === 0) return undefined;
  // What came in or went out may have done so before or behind it.
  const shift = was - size;
  const from = Math.max(0, Math.min(start, start + shift) - MARGIN);
  const to = Math.min(was, Math.max(end, end + shift) + MARGIN);
  if (from >= to) return undefined;
  return { start: from, end: Math.min(to, from + most) };
}
