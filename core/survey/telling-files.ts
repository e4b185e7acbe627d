import type { BuildLabel, Depot, DepotId } from '#core/builds';
import type { ContentKey } from '#core/digest';
import type { LaidFile } from '#core/manifest';
import type { Trees } from './identify';
import { cheapestCover, type Separator } from './separate';

/** A file whose bytes tell builds of its depot apart that names and sizes do not. */
export interface TellingFile {
  readonly path: string;
  readonly depot: DepotId;
  /** Bytes of the largest of its contents. */
  readonly size: number;
}

export interface TellingSet {
  readonly files: readonly TellingFile[];
  /** False where the search for a set of fewer bytes was broken off; the set tells the builds apart all the same. */
  readonly smallest: boolean;
}

/** One path of a depot over the builds: its content in each, undefined where the build does not have it. */
type Row = readonly (LaidFile | undefined)[];

function rowsByDepot(trees: Trees): Map<DepotId, Map<string, Row>> {
  const depots = new Map<DepotId, Map<string, (LaidFile | undefined)[]>>();
  [...trees.values()].forEach((tree, build) => {
    for (const file of tree) {
      let rows = depots.get(file.depot);
      if (!rows) depots.set(file.depot, (rows = new Map()));
      let row = rows.get(file.path);
      if (!row) rows.set(file.path, (row = Array<LaidFile | undefined>(trees.size).fill(undefined)));
      row[build] = file;
    }
  });
  return depots;
}

/** Splits classes of builds further by what `of` says of each; builds stay in one class where it says the same. */
function split(classes: number[], of: (build: number) => unknown): number[] {
  const known = new Map<number, Map<unknown, number>>();
  let next = 0;
  return classes.map((old, build) => {
    let within = known.get(old);
    if (!within) known.set(old, (within = new Map()));
    const word = of(build);
    let id = within.get(word);
    if (id === undefined) within.set(word, (id = next++));
    return id;
  });
}

const differs = <T>(row: Row, of: (file: LaidFile | undefined) => T): boolean =>
  row.some((file) => of(file) !== of(row[0]));

/** Pairs of builds, as numbers, that are in one class. */
function pairsWithin(classes: readonly number[]): number[] {
  const pairs: number[] = [];
  for (let a = 0; a < classes.length; a++) {
    for (let b = a + 1; b < classes.length; b++) if (classes[a] === classes[b]) pairs.push(a * classes.length + b);
  }
  return pairs;
}

function separators(rows: ReadonlyMap<string, Row>, pairs: readonly number[], builds: number): Separator[] {
  const cheapest = new Map<string, Separator>();
  for (const [path, row] of rows) {
    if (!differs(row, (file) => file?.key)) continue;
    const told = pairs.filter((pair) => row[Math.floor(pair / builds)]?.key !== row[pair % builds]?.key);
    if (told.length === 0) continue;
    const cost = Math.max(...row.map((file) => file?.size ?? 0));
    const name = told.join();
    const known = cheapest.get(name);
    // Of two files that tell the same builds apart only the smaller can be in a smallest set.
    if (!known || cost < known.cost || (cost === known.cost && path < known.path)) {
      cheapest.set(name, { path, cost, tells: told });
    }
  }
  return [...cheapest.values()];
}

/**
 * The files to read so that, with the names and sizes of all files, every two builds are told apart in each depot in
 * which they differ: a set of the fewest bytes. Builds whose names or sizes differ need no byte.
 */
export function tellingFiles(trees: Trees): TellingSet {
  const files: TellingFile[] = [];
  let smallest = true;
  for (const [depot, rows] of rowsByDepot(trees)) {
    let bySize = Array<number>(trees.size).fill(0);
    for (const row of rows.values()) {
      if (differs(row, (file) => file?.size)) bySize = split(bySize, (build) => row[build]?.size);
    }
    let byContent = bySize;
    for (const row of rows.values()) {
      if (differs(row, (file) => file?.key)) byContent = split(byContent, (build) => row[build]?.key);
    }
    const same = new Set(pairsWithin(byContent));
    const pairs = pairsWithin(bySize).filter((pair) => !same.has(pair));
    const cover = cheapestCover(pairs, separators(rows, pairs, trees.size));
    smallest &&= cover.cheapest;
    files.push(...cover.chosen.map(({ path, cost }) => ({ path, depot, size: cost })));
  }
  return { files: files.toSorted((a, b) => (a.path < b.path ? -1 : 1)), smallest };
}

/** What names, sizes and a few bytes say of a depot's build. */
export interface QuickIdentity {
  readonly depot: DepotId;
  /** The builds that fit best, all equally well, old to new; none where no file of the depot has its size. */
  readonly builds: readonly BuildLabel[];
  /** Files of the best build that are there with the right size, and how many it has. */
  readonly fitting: number;
  readonly total: number;
  /** Whether each telling file that the best build has was read and has its bytes. */
  readonly bytesAgree: boolean;
}

/**
 * Tells for each depot the build that fits best: the largest share of its files with the right size; where shares are
 * equal, the most telling files with the right bytes.
 * @param sizes of all files that are there
 * @param read keys of those telling files that are there
 */
export function quickIdentities(
  depots: readonly Depot[],
  trees: Trees,
  sizes: ReadonlyMap<string, number>,
  telling: readonly TellingFile[],
  read: ReadonlyMap<string, ContentKey>,
): QuickIdentity[] {
  const isTelling = new Set(telling.map(({ path }) => path));
  const counts = [...trees].map(([build, tree]) => ({ build, of: countFits(tree, sizes, isTelling, read) }));
  return depots.map(({ id }) => {
    let best: (Fit & { builds: BuildLabel[] }) | undefined;
    for (const { build, of } of counts) {
      const fit = of.get(id);
      if (!fit || fit.fitting === 0) continue;
      const better =
        best === undefined ? 1 : fit.fitting * best.total - best.fitting * fit.total || fit.bytes - best.bytes;
      if (better > 0) best = { ...fit, builds: [build] };
      else if (better === 0) best!.builds.push(build);
    }
    if (!best) return { depot: id, builds: [], fitting: 0, total: 0, bytesAgree: false };
    const { builds, fitting, total, bytes, asked } = best;
    return { depot: id, builds, fitting, total, bytesAgree: bytes === asked };
  });
}

interface Fit {
  fitting: number;
  total: number;
  /** Telling files with the right bytes, and how many telling files there are in this build. */
  bytes: number;
  asked: number;
}

function countFits(
  tree: readonly LaidFile[],
  sizes: ReadonlyMap<string, number>,
  telling: ReadonlySet<string>,
  read: ReadonlyMap<string, ContentKey>,
): Map<DepotId, Fit> {
  const fits = new Map<DepotId, Fit>();
  for (const { depot, path, size, key } of tree) {
    let fit = fits.get(depot);
    if (!fit) fits.set(depot, (fit = { fitting: 0, total: 0, bytes: 0, asked: 0 }));
    fit.total += 1;
    if (sizes.get(path) === size) fit.fitting += 1;
    if (!telling.has(path)) continue;
    fit.asked += 1;
    if (read.get(path) === key) fit.bytes += 1;
  }
  return fits;
}
