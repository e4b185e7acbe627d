import {
  asMod,
  type BuildLabel,
  countingDepots,
  type Depot,
  type DepotId,
  type DepotIndex,
  type GameRules,
  isPreset,
  type ModId,
  orderBuilds,
  type Ownership,
} from '#core/builds';
import { Failure, isFailure } from '#core/failure';
import { diskContents, fileHref, targetTree, type TargetFile, type TargetInput, withOwnSettings } from '#core/fetch';
import type { ContentKey } from '#core/digest';
import { type LaidFile, type Manifest, overlay, parseMetalink } from '#core/manifest';
import { readModList } from '#core/mod-list';
import {
  byPrograms,
  type Catalogue,
  type InstalledMod,
  knownReleases,
  type LoadOrder,
  orderMods,
  recogniseMods,
  statedRules,
} from '#core/mods';
import { type DepotIdentity, type FoundFile, identifyDepots, keysByPath, type Trees } from '#core/survey';
import { platformSha256, readText, request } from '~/remote';
import { keepLast } from './keep-last';
import { openSets } from './stored';
import {
  getCatalogue,
  getIndex,
  getInstall,
  getManifest,
  getSurvey,
  type Install,
  knownManifests,
  putManifest,
  type StoredSurvey,
  type Target,
} from '~/store';

/** What every query about an install starts from. */
export interface InstallContext {
  readonly install: Install;
  readonly index: DepotIndex;
  readonly catalogue: Catalogue;
  /** The game's program at each build of which it is known. */
  readonly programs: ReadonlyMap<BuildLabel, Pick<LaidFile, 'key' | 'sha256'>>;
  readonly depots: readonly Depot[];
  /** Laid trees of all builds, old to new; empty before their manifests are here. */
  readonly trees: Trees;
  readonly survey: StoredSurvey | undefined;
  readonly found: readonly FoundFile[];
  readonly installed: readonly InstalledMod[];
  /** Change sets that are between two states, whoever began them: until they end nothing that was read before counts. */
  readonly open: readonly string[];
}

/** Bytes that a manifest has at the most. */
export const MOST_MANIFEST = 256 << 20;

export type ManifestEntry = DepotIndex['manifests'][number];

const entryKey = (build: BuildLabel, depot: DepotId): string => JSON.stringify([build, depot]);

const entriesByKey = keepLast(
  (manifests: DepotIndex['manifests']) =>
    new Map(manifests.toReversed().map((entry) => [entryKey(entry.build, entry.depot), entry])),
);

/** The manifests of these depots at a build, in their order; a depot that the build does not have has none. */
export function entriesOf(
  { manifests }: DepotIndex,
  depots: readonly Pick<Depot, 'id'>[],
  build: BuildLabel,
): ManifestEntry[] {
  const entries = entriesByKey(manifests);
  return depots.flatMap(({ id }) => entries.get(entryKey(build, id)) ?? []);
}

/** Where the files of these depots at a build are to be had. */
export const fileAddresses = (
  index: DepotIndex,
  depots: readonly Depot[],
  build: BuildLabel,
): ReadonlyMap<DepotId, string> =>
  new Map(entriesOf(index, depots, build).map(({ depot, filesHref }) => [depot, filesHref]));

/** Contents of all builds that a source has files of, and not only tells of, with an address of each. */
export function addressesOf({ index, depots, trees }: InstallContext): Map<ContentKey, string> {
  const addresses = new Map<ContentKey, string>();
  for (const [build, tree] of trees) {
    const bases = fileAddresses(index, depots, build);
    for (const { path, key, depot } of tree) {
      const base = bases.get(depot) ?? '';
      if (base !== '' && !addresses.has(key)) addresses.set(key, fileHref(base, path));
    }
  }
  return addresses;
}

/** Where they are to be had too. */
const mirrorsOf = (
  index: DepotIndex,
  depots: readonly Depot[],
  build: BuildLabel,
): NonNullable<TargetInput['mirrors']> =>
  new Map(entriesOf(index, depots, build).flatMap(({ depot, mirrors }) => (mirrors ? [[depot, mirrors]] : [])));

/** Asks for a manifest, and keeps it where it is the one that the index means. */
async function learnManifest({ href, sha256, build, depot }: ManifestEntry): Promise<void> {
  const text = await readText(await request(href), href, MOST_MANIFEST);
  const found = await platformSha256(text);
  if (found !== sha256)
    throw new Failure('metalink/malformed', { file: href, line: 1, what: 'digest', expected: sha256, found });
  await putManifest(sha256, parseMetalink(text, build, depot, href));
}

/**
 * Reads the manifests of all builds that count for this ownership and are not here yet, and those of the other
 * languages, which tell that a wrong one was put in. Each is checked; what lies nowhere is waited for.
 * @throws Failure of the first that cannot be had, when all were asked for
 */
export async function learnManifests(index: DepotIndex, ownership: Ownership): Promise<void> {
  const languages = index.depots.filter(({ kind }) => kind === 'language');
  const depots = new Set([...countingDepots(index, ownership), ...languages].map(({ id }) => id));
  return learnEntries(index.manifests.filter(({ depot }) => depots.has(depot)));
}

/** As {@link learnManifests}, of all depots, whoever owns them. */
export const learnAll = ({ manifests }: DepotIndex): Promise<void> => learnEntries(manifests);

async function learnEntries(entries: readonly ManifestEntry[]): Promise<void> {
  const known = await knownManifests();
  const wanted = entries.filter((entry) => entry.href !== '' && !known.has(entry.sha256));
  let failure: Failure | undefined;
  for (const entry of wanted) {
    try {
      await learnManifest(entry);
    } catch (error) {
      if (!isFailure(error)) throw error;
      failure ??= error;
      // Who does not answer at all is not asked for the others either.
      if (error.code === 'service/unreachable') break;
    }
  }
  if (failure) throw failure;
}

const treeCache = new Map<string, LaidFile[]>();
const TREE_CACHE_LIMIT = 128;

/** The manifests of a build's depots in laying order, undefined while one of them is not here or where it has none. */
export async function manifestsOf(
  index: DepotIndex,
  depots: readonly Depot[],
  build: BuildLabel,
): Promise<Manifest[] | undefined> {
  return manifestsNamed(digestsOf(index, depots, build));
}

const digestsOf = (...of: Parameters<typeof entriesOf>): string[] => entriesOf(...of).map(({ sha256 }) => sha256);

async function manifestsNamed(digests: readonly string[]): Promise<Manifest[] | undefined> {
  const manifests = await Promise.all(digests.map((sha256) => getManifest(sha256)));
  return digests.length > 0 && manifests.every((m) => m !== undefined) ? manifests : undefined;
}

/**
 * The tree that manifests make, in laying order; undefined while one of them is not here, or where there is none.
 * @param like the tree of a build near to this one, with which it shares what is the same
 */
async function laidTree(
  digests: readonly string[],
  like: readonly LaidFile[] | undefined,
): Promise<LaidFile[] | undefined> {
  const key = digests.join();
  const cached = treeCache.get(key);
  if (cached) return cached;
  const manifests = await manifestsNamed(digests);
  if (!manifests) return undefined;
  const laid = overlay(manifests, like);
  treeCache.set(key, laid);
  if (treeCache.size > TREE_CACHE_LIMIT) treeCache.delete(treeCache.keys().next().value!);
  return laid;
}

export function foundFiles(survey: StoredSurvey | undefined): FoundFile[] {
  if (!survey) return [];
  return survey.paths.map((path, i) => ({ path, size: survey.sizes[i]!, key: survey.keys[i]! }));
}

/*
 * What a click changes is next to nothing of all this: what is the same stays the same object, and so what was worked
 * out of it still counts.
 */
const keptFound = keepLast(foundFiles);

/** Where the contents of a folder's files lie in it, to be asked of every build and target. */
export const contentsOf = keepLast(diskContents);

const keptUnreadable = keepLast((unreadable: StoredSurvey['unreadable']) => unreadable.map(({ path }) => path));
const keptMods = keepLast((found: readonly FoundFile[], catalogue: Catalogue, rules: GameRules) =>
  recogniseMods(found, catalogue, (path) => isPreset(rules, path)),
);
const keptIdentities = keepLast(identifyDepots);
const keptIndex = keepLast((offered: DepotIndex, order: string): DepotIndex => {
  return { ...offered, builds: orderBuilds(offered.builds, JSON.parse(order) as BuildLabel[]) };
});
const keptDepots = keepLast((index: DepotIndex, ownership: string) =>
  countingDepots(index, JSON.parse(ownership) as Ownership),
);
let lastTrees: Trees = new Map();

/** Releases that go by the digest of the program are told by the programs of the builds. */
const keptFits = keepLast((catalogue: Catalogue, programs: InstallContext['programs']) =>
  byPrograms(catalogue, new Map([...programs].map(([build, { sha256 }]) => [build, sha256]))),
);

const keptPrograms = keepLast((trees: Trees, program: string | undefined): InstallContext['programs'] => {
  const programs = new Map<BuildLabel, LaidFile>();
  for (const [build, tree] of trees) {
    const file = tree.find(({ path }) => path === program);
    if (file) programs.set(build, file);
  }
  return programs;
});

/** The trees as they were had before, where each is the very same. */
function keptTrees(trees: Trees): Trees {
  const [before, now] = [[...lastTrees].flat(), [...trees].flat()];
  if (before.length !== now.length || now.some((one, i) => one !== before[i])) lastTrees = trees;
  return lastTrees;
}

export async function installContext(installId: string): Promise<InstallContext> {
  const install = await getInstall(installId);
  const [offered, said, survey, open] = await Promise.all([
    getIndex(install.game),
    getCatalogue(install.game),
    getSurvey(install),
    openSets(install),
  ]);
  const index = keptIndex(offered, JSON.stringify(install.buildOrder ?? []));
  const depots = keptDepots(index, JSON.stringify(install.ownership));
  const laidTrees = new Map<BuildLabel, readonly LaidFile[]>();
  let like: readonly LaidFile[] | undefined;
  for (const { label } of index.builds) {
    const laid = await laidTree(digestsOf(index, depots, label), like);
    if (laid) laidTrees.set(label, (like = laid));
  }
  const trees = keptTrees(laidTrees);
  const found = keptFound(survey);
  const programs = keptPrograms(trees, index.game.rules.program);
  const catalogue = keptFits(said, programs);
  return {
    install,
    index,
    catalogue,
    programs,
    depots,
    trees,
    survey,
    found,
    installed: keptMods(found, catalogue, index.game.rules),
    open,
  };
}

/** Which build each depot on disk is at; none before the first survey. */
export function identities({ depots, trees, found }: InstallContext): DepotIdentity[] {
  return found.length === 0 ? [] : keptIdentities(depots, trees, found);
}

/** Files and folders that the survey could not look at. */
export const unreadablePaths = ({ survey }: InstallContext): readonly string[] =>
  survey ? keptUnreadable(survey.unreadable) : [];

/** Whether nothing has changed the folder since it was surveyed, as far as is known, and no change of it is unfinished. */
export const isFresh = ({ survey, install, open }: InstallContext): boolean =>
  survey !== undefined && survey.at >= install.changedAt && open.length === 0;

/** Releases of the mods that lie on disk. */
export function installedReleases({ installed }: Pick<InstallContext, 'installed'>): Map<InstalledMod['mod'], string> {
  return new Map(installed.map(({ mod, release }) => [mod, release]));
}

/** The list of mods to load as it lies in the folder; as it was before something emptied it, where it is empty. */
export const listThatCounts = ({ survey }: Pick<InstallContext, 'survey'>): string =>
  survey?.lastModList ?? survey?.modList ?? '';

/** Mods as the folder's list has them on, in its order. */
export const listedMods = (here: Pick<InstallContext, 'survey' | 'index'>): ModId[] =>
  readModList(listThatCounts(here), here.index.game.rules.listSyntax).map(asMod);

/**
 * The order in which releases are loaded: as a person has them, or else the folder's list, with what is new put where it may
 * stand, and what the rules say.
 */
export function orderFor(here: InstallContext, releases: ReadonlyMap<ModId, string>): LoadOrder {
  const { catalogue, install } = here;
  const { order = listedMods(here), orderRules = [] } = install;
  return orderMods(catalogue, releases, order, statedRules(catalogue, releases, orderRules));
}

export const personalOrder = (here: InstallContext, releases: ReadonlyMap<ModId, string>): readonly ModId[] =>
  orderFor(here, releases).order;

export type Wanted = Pick<Target, 'build' | 'releases' | 'order' | 'list' | 'manifests'>;

/** The target and what is held are mostly asked for in turn. */
const TARGETS_KEPT = 2;

const keptTarget = keepLast(
  async (
    index: DepotIndex,
    depots: readonly Depot[],
    laid: readonly LaidFile[],
    catalogue: Catalogue,
    wanted: string,
  ): Promise<readonly TargetFile[]> => {
    const { build, releases, order, list } = JSON.parse(wanted) as Wanted;
    const filesHref = fileAddresses(index, depots, build);
    const mirrors = mirrorsOf(index, depots, build);
    const known = knownReleases(catalogue, releases);
    const input = { index, laid, filesHref, mirrors, catalogue, releases: known, order, list };
    return targetTree(input, platformSha256);
  },
  TARGETS_KEPT,
);

const keptOwnSettings = keepLast(
  (
    target: readonly TargetFile[],
    found: ReadonlyMap<string, ContentKey>,
    rules: GameRules,
    trees: Trees,
    switched: StoredSurvey['switched'],
  ) => {
    const isOfBuild = (path: string, key: ContentKey): boolean =>
      [...trees.values()].some((tree) => fileAt(tree, path)?.key === key);
    return withOwnSettings(target, found, rules, { isOfBuild, switched: new Set(switched) });
  },
  TARGETS_KEPT,
);

/** The file at a path of a tree, which is sorted by path. */
export function fileAt(tree: readonly LaidFile[], path: string): LaidFile | undefined {
  let [from, to] = [0, tree.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (tree[middle]!.path < path) from = middle + 1;
    else to = middle;
  }
  return tree[from]?.path === path ? tree[from] : undefined;
}

/** As {@link treeOfTarget}, with what the person has set of mods as it lies in the folder. */
export async function treeToLie(here: InstallContext, wanted: Wanted): Promise<readonly TargetFile[] | undefined> {
  const tree = await treeOfTarget(here, wanted);
  const { found, index, trees, survey } = here;
  return tree && keptOwnSettings(tree, keysByPath(found), index.game.rules, trees, survey?.switched);
}

/**
 * The laid tree of a build: what was made of certain manifests rests on them, whatever a source says of that build since;
 * undefined while one of them is not here.
 */
export async function laidOf(
  { trees }: InstallContext,
  { build, manifests = [] }: Pick<Wanted, 'build' | 'manifests'>,
): Promise<readonly LaidFile[] | undefined> {
  const now = trees.get(build);
  return manifests.length > 0 ? laidTree(manifests, now) : now;
}

/**
 * The tree that a target is to become, without releases that the catalogue no longer has; undefined while the manifests
 * of its build are not here.
 */
export async function treeOfTarget(
  here: InstallContext,
  { build, releases, order, list = here.install.modFree ? '' : listThatCounts(here), manifests = [] }: Wanted,
): Promise<readonly TargetFile[] | undefined> {
  const { index, catalogue, depots } = here;
  const laid = await laidOf(here, { build, manifests });
  return laid && keptTarget(index, depots, laid, catalogue, JSON.stringify({ build, releases, order, list }));
}
