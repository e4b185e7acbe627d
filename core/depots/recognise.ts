import type { BuildLabel, DepotId } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { depthOf } from '#core/paths';
import type { FoundFile } from '#core/survey';

/* Depots that came by other means, in a folder of any shape: recognised by what they hold, whatever the folders are called. */

/** A depot at a build, as a source tells of it. */
export interface KnownDepot {
  readonly depot: DepotId;
  readonly build: BuildLabel;
  readonly files: readonly { readonly path: string; readonly size: number; readonly key: ContentKey }[];
}

/** A depot, or a part of one, that lies in a folder. */
export interface DepotCopy {
  /** Where its tree begins, below what was pointed at; empty where that is the tree itself. */
  readonly folder: string;
  readonly depot: DepotId;
  /** The build of which it has most; of several equally good ones the wanted one, else the newest. */
  readonly build: BuildLabel;
  readonly expected: FilesAndBytes;
  /** Of those: what lies there as it should, or is covered there by a depot that lies in the same folder. */
  readonly found: FilesAndBytes;
  /** Paths in the depot where nothing lies, sorted. */
  readonly missing: readonly string[];
  /** Paths in the depot where other bytes lie, sorted. */
  readonly altered: readonly string[];
}

export interface FilesAndBytes {
  readonly files: number;
  readonly bytes: number;
}

/** Less than this share of a depot's files is chance: a licence, or an empty file, lies in many folders. */
const LEAST_SHARE = 0.02;

/** Paths of each content, with the depots that have it there. */
type Whereabouts = ReadonlyMap<ContentKey, ReadonlyMap<string, ReadonlySet<DepotId>>>;

function whereabouts(known: readonly KnownDepot[]): Whereabouts {
  const all = new Map<ContentKey, Map<string, Set<DepotId>>>();
  for (const { depot, files } of known) {
    for (const { path, key } of files) {
      let paths = all.get(key);
      if (!paths) all.set(key, (paths = new Map()));
      const depots = paths.get(path);
      if (depots) depots.add(depot);
      else paths.set(path, new Set([depot]));
    }
  }
  return all;
}

/**
 * Folders in which a depot's tree may begin, each with the depots of which enough lies there. What is told by few files is left
 * out before anything is compared with it: an empty file may lie in ten thousand folders.
 */
function beginnings(
  found: readonly FoundFile[],
  known: readonly KnownDepot[],
): (readonly [folder: string, depots: ReadonlySet<DepotId>])[] {
  const at = whereabouts(known);
  const votes = new Map<string, Map<DepotId, number>>();
  for (const { path, key } of found) {
    for (const [inDepot, depots] of at.get(key) ?? []) {
      if (path !== inDepot && !path.endsWith(`/${inDepot}`)) continue;
      const folder = path.slice(0, Math.max(0, path.length - inDepot.length - 1));
      let here = votes.get(folder);
      if (!here) votes.set(folder, (here = new Map()));
      for (const depot of depots) here.set(depot, (here.get(depot) ?? 0) + 1);
    }
  }
  const smallest = new Map<DepotId, number>();
  for (const { depot, files } of known) smallest.set(depot, Math.min(files.length, smallest.get(depot) ?? Infinity));
  return [...votes].flatMap(([folder, here]) => {
    const enough = [...here].filter(([depot, count]) => count >= LEAST_SHARE * smallest.get(depot)!);
    return enough.length === 0 ? [] : [[folder, new Set(enough.map(([depot]) => depot))] as const];
  });
}

interface Candidate {
  readonly known: KnownDepot;
  readonly hits: number;
}

/** Of each depot the build of which most files lie at their paths in a folder. */
function bestBuilds(
  known: readonly KnownDepot[],
  depots: ReadonlySet<DepotId>,
  keyAt: (path: string) => ContentKey | undefined,
  wanted: BuildLabel | undefined,
): Candidate[] {
  const best = new Map<DepotId, Candidate>();
  for (const one of known) {
    if (!depots.has(one.depot)) continue;
    const hits = one.files.reduce((sum, { path, key }) => sum + (keyAt(path) === key ? 1 : 0), 0);
    const before = best.get(one.depot);
    const isBetter =
      !before ||
      hits > before.hits ||
      (hits === before.hits &&
        before.known.build !== wanted &&
        // Of two that are met as often, the one that lacks less; of equals the later one, which stands further back.
        (one.build === wanted || one.files.length <= before.known.files.length));
    if (isBetter) best.set(one.depot, { known: one, hits });
  }
  return [...best.values()].filter(({ hits }) => hits > 0);
}

const sumOf = (files: KnownDepot['files']): FilesAndBytes => ({
  files: files.length,
  bytes: files.reduce((sum, { size }) => sum + size, 0),
});

/**
 * The depots that lie in a folder, whole or in part; each file speaks for one beginning alone, that of which most lies there,
 * so that a few common files make no depot of a folder.
 * @param found files with their keys, in any order
 * @param known depots at builds, from old to new builds
 * @param wanted the build that is looked for
 * @returns by folder, then in the order of `known`
 */
export function recogniseDepots(
  found: readonly FoundFile[],
  known: readonly KnownDepot[],
  wanted?: BuildLabel,
): DepotCopy[] {
  const keys = new Map(found.map(({ path, key }) => [path, key]));
  const candidates = beginnings(found, known).map(([folder, depots]) => {
    const prefix = folder === '' ? '' : `${folder}/`;
    const best = bestBuilds(known, depots, (path) => keys.get(prefix + path), wanted);
    return { prefix, folder, best, hits: best.reduce((sum, { hits }) => sum + hits, 0) };
  });
  const claimed = new Set<string>();
  const copies: DepotCopy[] = [];
  for (const { prefix, folder, best } of candidates.toSorted(
    (a, b) => b.hits - a.hits || depthOf(a.folder) - depthOf(b.folder),
  )) {
    // What two depots that lie in one folder both have speaks for both.
    const own = new Set<string>();
    const laid = new Set(best.flatMap(({ known: { files } }) => files.map(({ path, key }) => `${path}\0${key}`)));
    for (const { known: one, hits } of best.toSorted((a, b) => b.hits - a.hits)) {
      const isRight = ({ path, key }: KnownDepot['files'][number]): boolean => keys.get(prefix + path) === key;
      const here = one.files.filter((file) => isRight(file) && !claimed.has(prefix + file.path));
      if (here.length === 0 || here.length < LEAST_SHARE * one.files.length) continue;
      // A part of which nothing but what is another's too lies there speaks for that other.
      if (hits < one.files.length && here.every(({ path }) => own.has(prefix + path))) continue;
      for (const { path } of here) own.add(prefix + path);
      const isCovered = ({ path }: { path: string }): boolean => laid.has(`${path}\0${keys.get(prefix + path)}`);
      const others = one.files.filter((file) => !isRight(file) && !isCovered(file));
      const paths = (isThere: boolean): string[] =>
        others.flatMap(({ path }) => (keys.has(prefix + path) === isThere ? [path] : [])).toSorted();
      copies.push({
        ...{ folder, depot: one.depot, build: one.build, expected: sumOf(one.files) },
        found: sumOf(one.files.filter((file) => isRight(file) || isCovered(file))),
        ...{ missing: paths(false), altered: paths(true) },
      });
    }
    for (const path of own) claimed.add(path);
  }
  const place = new Map(known.map(({ depot }, i) => [depot, i] as const).reverse());
  return copies.toSorted((a, b) =>
    a.folder === b.folder ? place.get(a.depot)! - place.get(b.depot)! : a.folder < b.folder ? -1 : 1,
  );
}
