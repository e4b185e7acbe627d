import type { ContentKey } from '#core/digest';
import type { PlannedFrame } from './by-frames';
import type { FilePart, PieceSource, SourcePart } from './what-to-fetch';

/** A file that is to come. */
export interface HaulFile {
  /** What it is called in the store. */
  readonly name: string;
  /** Where its bytes are; empty where all of them lie elsewhere on the disk. */
  readonly href: string;
  /** Where they are to be had too. */
  readonly mirrors?: readonly string[] | undefined;
  /** Whether its source gives all of it or nothing. */
  readonly inWhole?: boolean | undefined;
  readonly size: number;
  readonly key: ContentKey;
  /** Where pieces lie; undefined ones are fetched. */
  readonly sources: readonly (PieceSource | undefined)[];
}

/** A frame of a bundle that brings pieces of files. */
export interface HaulFrame {
  readonly href: string;
  /** The bytes `[start, end)` of the bundle that it is. */
  readonly start: number;
  readonly end: number;
  /** Whether its source gives all of the bundle or nothing: then it is asked for as a whole, and read as far as it is needed. */
  readonly inWhole?: boolean | undefined;
  /** Bytes that it unpacks to. */
  readonly size: number;
  /** What it begins with: parts of files on the disk, or of what a source has where the disk has another. */
  readonly prefix: readonly (FilePart | SourcePart)[];
  /** What of it is wanted: bytes `[start, end)` of a file, by its place in the haul, which begin at byte `at` of the frame. */
  readonly parts: readonly {
    readonly file: number;
    readonly at: number;
    readonly start: number;
    readonly end: number;
  }[];
}

/** Files that are fetched together by one worker; what frames bring of them comes out of these where it can be had. */
export interface Haul {
  readonly files: readonly HaulFile[];
  readonly frames?: readonly HaulFrame[] | undefined;
}

/** What has to be known of a file to put it with others. */
export interface Haulable {
  readonly size: number;
  readonly sha256: string;
}

/** What is fetched together: so many that what it costs to hand them out is small, and so few that a pause comes soon. */
const MOST_BYTES = 8 << 20;
const MOST_FILES = 16;
/** The same of frames: bytes on the wire, and files that they bring. */
const MOST_FRAME_BYTES = 8 << 20;
const MOST_FRAME_FILES = 2000;
/** Bytes of a bundle that nobody needs and that come along, rather than to ask once more. */
const GAP = 16 << 10;

/** Frames that belong together, and the contents that they bring. */
interface Cluster {
  readonly frames: PlannedFrame[];
  readonly contents: Set<string>;
}

const inBundle = (a: Pick<HaulFrame, 'href' | 'start'>, b: Pick<HaulFrame, 'href' | 'start'>): number =>
  a.href === b.href ? a.start - b.start : a.href < b.href ? -1 : 1;

/**
 * Frames with all others that bring pieces of the same contents, since a file is put together by one worker, and with those that come in one
 * answer.
 */
function clustersOf(frames: readonly PlannedFrame[], isWanted: (content: string) => boolean): Cluster[] {
  const clusterOf = new Map<string, Cluster>();
  const wholeBundles = new Map<string, Cluster>();
  const clusters = new Set<Cluster>();
  for (const frame of frames.toSorted(inBundle)) {
    const contents = new Set(frame.parts.map(({ sha256 }) => sha256).filter(isWanted));
    if (contents.size === 0) continue;
    const inOne = frame.inWhole ? wholeBundles.get(frame.href) : undefined;
    const joined = new Set([inOne ?? [], ...[...contents].map((content) => clusterOf.get(content) ?? [])].flat());
    const [cluster = { frames: [], contents: new Set<string>() }, ...others] = joined;
    for (const other of others) {
      clusters.delete(other);
      cluster.frames.push(...other.frames);
      for (const content of other.contents) contents.add(content);
      for (const [href, one] of wholeBundles) if (one === other) wholeBundles.set(href, cluster);
    }
    if (frame.inWhole) wholeBundles.set(frame.href, cluster);
    cluster.frames.push(frame);
    for (const content of contents) {
      cluster.contents.add(content);
      clusterOf.set(content, cluster);
    }
    clusters.add(cluster);
  }
  return [...clusters];
}

const lengthOf = (frames: readonly PlannedFrame[]): number =>
  frames.reduce((sum, { start, end }) => sum + end - start, 0);

/** Clusters that lie beside each other in their bundle, together as far as that is not too much. */
function frameHauls(clusters: readonly Cluster[]): Cluster[] {
  const hauls: Cluster[] = [];
  let last: Cluster | undefined;
  let bytes = 0;
  for (const cluster of clusters) {
    const more = lengthOf(cluster.frames);
    const fits =
      last &&
      last.frames[0]!.href === cluster.frames[0]!.href &&
      bytes + more <= MOST_FRAME_BYTES &&
      last.contents.size + cluster.contents.size <= MOST_FRAME_FILES;
    if (!last || !fits) {
      hauls.push((last = { frames: [], contents: new Set() }));
      bytes = 0;
    }
    bytes += more;
    last.frames.push(...cluster.frames);
    for (const content of cluster.contents) last.contents.add(content);
  }
  return hauls;
}

/**
 * Puts files together that are fetched at a time: those that the same frames bring, a large one by itself, small ones with others.
 * @param files of different contents, largest first: at the end only small ones are under way, and nobody waits long for the others
 * @param frames that bring some of them
 */
export function haulsOf<T extends Haulable>(
  files: readonly T[],
  frames: readonly PlannedFrame[] = [],
): { readonly files: readonly T[]; readonly frames: readonly PlannedFrame[] }[] {
  const byContent = new Map(files.map((file) => [file.sha256, file]));
  const framed = frameHauls(clustersOf(frames, (content) => byContent.has(content)));
  const inFrames = new Set(framed.flatMap(({ contents }) => [...contents]));
  const hauls: { files: T[]; frames: readonly PlannedFrame[] }[] = framed.map(({ frames: some, contents }) => ({
    ...{ files: [...contents].map((content) => byContent.get(content)!), frames: some },
  }));
  let haul: T[] = [];
  let bytes = 0;
  for (const file of files) {
    if (inFrames.has(file.sha256)) continue;
    if (haul.length > 0 && (haul.length >= MOST_FILES || bytes + file.size > MOST_BYTES)) {
      hauls.push({ files: haul, frames: [] });
      [haul, bytes] = [[], 0];
    }
    haul.push(file);
    bytes += file.size;
  }
  if (haul.length > 0) hauls.push({ files: haul, frames: [] });
  return hauls;
}

/** Frames of one bundle that are asked for in one request. */
export interface FrameRun<F> {
  readonly href: string;
  readonly start: number;
  readonly end: number;
  /** Whether it is the bundle, of which no part can be asked for. */
  readonly isAll: boolean;
  readonly frames: readonly F[];
}

/** Frames that lie beside each other, or come with all of their bundle, as runs that are asked for together. */
export function frameRuns<F extends Pick<HaulFrame, 'href' | 'start' | 'end' | 'inWhole'>>(
  frames: readonly F[],
): FrameRun<F>[] {
  const runs: { href: string; start: number; end: number; isAll: boolean; frames: F[] }[] = [];
  for (const frame of frames.toSorted(inBundle)) {
    const { href, start, end, inWhole: isAll = false } = frame;
    const last = runs.at(-1);
    const isNear = last && start >= last.end && start - last.end <= GAP && end - last.start <= MOST_FRAME_BYTES;
    if (last?.href === href && (last.isAll || isNear)) {
      last.frames.push(frame);
      last.end = Math.max(last.end, end);
    } else runs.push({ href, start: isAll ? 0 : start, end, isAll, frames: [frame] });
  }
  return runs;
}
