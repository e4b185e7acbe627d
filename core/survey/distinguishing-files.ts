import type { BuildLabel, Depot, DepotId } from '#core/builds';
import type { ContentKey } from '#core/digest';
import type { LaidFile } from '#core/manifest';
import { inOneCut, type Trees } from './identify';
import { cheapestCover, type Cover, type Separator } from './separate';

/** A file whose bytes tell builds of its depot apart that names and sizes do not. */
export interface DistinguishingFile {
  readonly path: string;
  readonly depot: DepotId;
  /** Bytes of the largest of its contents. */
  readonly size: number;
}

export interface DistinguishingSet {
  readonly files: readonly DistinguishingFile[];
  /** False where the search for a set of fewer bytes was broken off; the set tells the builds apart all the same. */
  readonly smallest: boolean;
}

/** The files of each build that stay of a depot, by path: builds in their order. */
type Lists = readonly (readonly LaidFile[])[];

function listsByDepot(trees: Trees): Map<DepotId, Lists> {
  const depots = new Map<DepotId, LaidFile[][]>();
  [...trees.values()].forEach((tree, build) => {
    for (const file of tree) {
      let lists = depots.get(file.depot);
      if (!lists) depots.set(file.depot, (lists = Array.from({ length: trees.size }, () => [])));
      lists[build]!.push(file);
    }
  });
  return depots;
}

const sameSizes = (a: LaidFile, b: LaidFile): boolean => a === b || (a.path === b.path && a.size === b.size);
const sameContents = (a: LaidFile, b: LaidFile): boolean => a === b || (a.path === b.path && a.key === b.key);

/** Puts builds together whose files are the same one by one. */
function classesOf(builds: readonly number[], lists: Lists, same: typeof sameSizes): number[][] {
  const classes: number[][] = [];
  for (const build of builds) {
    const list = lists[build]!;
    const own = classes.find(([first]) => {
      const other = lists[first!]!;
      return other.length === list.length && list.every((file, i) => same(file, other[i]!));
    });
    if (own) own.push(build);
    else classes.push([build]);
  }
  return classes;
}

/** A file that tells builds apart, by the class that each build is in: builds of one class have the same bytes of it. */
interface Candidate {
  readonly path: string;
  readonly cost: number;
  readonly classes: Uint16Array;
}

/** Builds that want to be told apart by bytes, one for each content, and what tells them apart. */
interface Ambiguity {
  readonly builds: readonly number[];
  readonly candidates: readonly Candidate[];
}

/** The class of each of some builds by what lies at place `i` of their lists; undefined where all are the same. */
function classesAt(lists: Lists, builds: readonly number[], i: number): Uint16Array | undefined {
  const first = lists[builds[0]!]![i]!;
  // Files that did not change are shared between trees, so this is quick for most.
  if (builds.every((build) => lists[build]![i] === first)) return undefined;
  const firsts = [first];
  const classes = new Uint16Array(builds.length);
  for (let member = 1; member < builds.length; member++) {
    const file = lists[builds[member]!]![i]!;
    const before = lists[builds[member - 1]!]![i];
    let own = before === file ? classes[member - 1]! : firsts.findIndex((other) => sameContents(other, file));
    if (own < 0) own = firsts.push(file) - 1;
    classes[member] = own;
  }
  return firsts.length > 1 ? classes : undefined;
}

/** What names and sizes leave open of a depot. */
function ambiguitiesOf(lists: Lists): Ambiguity[] {
  return classesOf([...lists.keys()], lists, sameSizes).flatMap((alike): Ambiguity[] => {
    // Of builds that are the same in every byte one stands for all.
    const builds = classesOf(alike, lists, sameContents).map(([first]) => first!);
    if (builds.length < 2) return [];
    const cheapest = new Map<string, Candidate>();
    // Names and sizes being the same, the lists have the same file at the same place.
    lists[builds[0]!]!.forEach(({ path, size: cost }, i) => {
      const classes = classesAt(lists, builds, i);
      if (!classes) return;
      const name = String.fromCharCode(...classes);
      // Of two files that tell the same builds apart only the smaller can be in a smallest set.
      if (cost < (cheapest.get(name)?.cost ?? Infinity)) cheapest.set(name, { path, cost, classes });
    });
    return [{ builds, candidates: [...cheapest.values()] }];
  });
}

/** Above this many pairs times files nobody waits for the cheapest set; a cheap one is found in no time. */
const MOST_TO_SEARCH = 2_000_000;

/** All ambiguities of a depot at once, as a cover of pairs: a file that is read for one of them tells for the others too. */
function cheapestSet(ambiguities: readonly Ambiguity[], builds: number): Cover {
  const pairs: number[] = [];
  const byPath = new Map<string, Separator & { tells: number[] }>();
  for (const ambiguity of ambiguities) {
    const pairOf = (a: number, b: number): number => ambiguity.builds[a]! * builds + ambiguity.builds[b]!;
    const members = [...ambiguity.builds.keys()];
    const all = members.flatMap((a) => members.slice(a + 1).map((b) => [a, b] as const));
    pairs.push(...all.map(([a, b]) => pairOf(a, b)));
    for (const { path, cost, classes } of ambiguity.candidates) {
      const tells = all.filter(([a, b]) => classes[a] !== classes[b]).map(([a, b]) => pairOf(a, b));
      const known = byPath.get(path);
      if (known) known.tells.push(...tells);
      else byPath.set(path, { path, cost, tells });
    }
  }
  return cheapestCover(pairs, [...byPath.values()]);
}

/** Pairs of builds in one of the groups that a file tells apart. */
function pairsTold(groups: readonly (readonly number[])[], classes: Candidate['classes']): number {
  let told = 0;
  const sizes = new Uint16Array(classes.length + 1);
  for (const group of groups) {
    sizes.fill(0);
    group.forEach((member) => (sizes[classes[member]!]! += 1));
    told += group.length * group.length;
    for (const size of sizes) told -= size * size;
  }
  return told / 2;
}

/**
 * A cheap set of files for one ambiguity: again and again the one that tells most pairs for its bytes. What a file is worth
 * only shrinks as pairs are told, so one whose earlier worth is below the best need not be asked again.
 */
function cheapSet({ builds, candidates }: Ambiguity): Candidate[] {
  const chosen: Candidate[] = [];
  let groups: number[][] = [[...builds.keys()]];
  const worthOf = ({ classes, cost }: Candidate): number => pairsTold(groups, classes) / (cost + 1);
  // The worthiest stands last.
  const queue = candidates
    .map((candidate) => ({ candidate, worth: worthOf(candidate) }))
    .sort((a, b) => a.worth - b.worth);
  while (groups.length > 0 && queue.length > 0) {
    const { candidate } = queue.pop()!;
    const worth = worthOf(candidate);
    if (worth === 0) continue;
    if (worth < (queue.at(-1)?.worth ?? 0)) {
      let [low, high] = [0, queue.length];
      while (low < high) {
        const middle = (low + high) >> 1;
        if (queue[middle]!.worth < worth) low = middle + 1;
        else high = middle;
      }
      queue.splice(low, 0, { candidate, worth });
      continue;
    }
    chosen.push(candidate);
    groups = groups.flatMap((group) => splitGroup(group, candidate.classes)).filter((group) => group.length > 1);
  }
  return chosen;
}

function splitGroup(group: readonly number[], classes: Candidate['classes']): number[][] {
  const parts = new Map<number, number[]>();
  for (const member of group) {
    const own = parts.get(classes[member]!);
    if (own) own.push(member);
    else parts.set(classes[member]!, [member]);
  }
  return [...parts.values()];
}

/**
 * The files to read so that, with the names and sizes of all files, every two builds are told apart in each depot in
 * which they differ: a set of the fewest bytes. Builds whose names or sizes differ need no byte.
 */
export function distinguishingFiles(trees: Trees): DistinguishingSet {
  const files: DistinguishingFile[] = [];
  let smallest = true;
  for (const [depot, lists] of listsByDepot(trees)) {
    const ambiguities = ambiguitiesOf(lists);
    const effort = ambiguities.reduce((sum, { builds, candidates }) => sum + builds.length ** 2 * candidates.length, 0);
    if (effort <= MOST_TO_SEARCH) {
      const cover = cheapestSet(ambiguities, lists.length);
      smallest &&= cover.cheapest;
      files.push(...cover.chosen.map(({ path, cost }) => ({ path, depot, size: cost })));
    } else {
      smallest = false;
      const chosen = new Map(ambiguities.flatMap(cheapSet).map((candidate) => [candidate.path, candidate]));
      files.push(...[...chosen.values()].map(({ path, cost }) => ({ path, depot, size: cost })));
    }
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
  /** Whether each distinguishing file that the best build has was read and has its bytes. */
  readonly bytesAgree: boolean;
}

/**
 * Tells for each depot the build that fits best: the largest share of its files with the right size; where shares are
 * equal, the most distinguishing files with the right bytes.
 * @param sizes of all files that are there
 * @param read keys of those distinguishing files that are there
 */
export function quickIdentities(
  depots: readonly Depot[],
  trees: Trees,
  sizes: ReadonlyMap<string, number>,
  distinguishing: readonly DistinguishingFile[],
  read: ReadonlyMap<string, ContentKey>,
): QuickIdentity[] {
  const isDistinguishing = new Set(distinguishing.map(({ path }) => path));
  const counts = [...trees].map(([build, tree]) => ({ build, of: countFits(tree, sizes, isDistinguishing, read) }));
  const identities = depots.map(({ id }): QuickIdentity => {
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
  return inOneCut(identities, trees, ({ fitting }) => fitting);
}

interface Fit {
  fitting: number;
  total: number;
  /** Distinguishing files with the right bytes, and how many distinguishing files there are in this build. */
  bytes: number;
  asked: number;
}

function countFits(
  tree: readonly LaidFile[],
  sizes: ReadonlyMap<string, number>,
  distinguishing: ReadonlySet<string>,
  read: ReadonlyMap<string, ContentKey>,
): Map<DepotId, Fit> {
  const fits = new Map<DepotId, Fit>();
  for (const { depot, path, size, key } of tree) {
    let fit = fits.get(depot);
    if (!fit) fits.set(depot, (fit = { fitting: 0, total: 0, bytes: 0, asked: 0 }));
    fit.total += 1;
    if (sizes.get(path) === size) fit.fitting += 1;
    if (!distinguishing.has(path)) continue;
    fit.asked += 1;
    if (read.get(path) === key) fit.bytes += 1;
  }
  return fits;
}
