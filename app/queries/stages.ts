import {
  differences,
  layDownPlan,
  proofOf,
  type LayDownPlan,
  roomInParts,
  roomNeeded,
  type RoomNow,
  roomOverParts,
  roomOverTime,
  withoutKeeping,
} from '#core/assemble';
import { type BuildLabel, type DepotId, type ModId, headBuild, type Ownership, ownKind, ownRule } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import type { ToldReference } from '#core/contents';
import { type ContentKey, keyPieces, keySize } from '#core/digest';
import { Failure, isFailure, type WireFailure } from '#core/failure';
import {
  coveredVanilla,
  type DiskContents,
  fetchTotals,
  isNowhere,
  type FetchItem,
  type OnDisk,
  type Owner,
  type Planned,
  type Source,
  type TargetFile,
  whatToFetch,
  wireCost,
} from '#core/fetch';
import type { OwnFile } from '#core/keepsakes';
import {
  drift,
  driftCauses,
  HOLD_SHEET_VERSION,
  type HoldSheet,
  looseMeans,
  settingsFact,
  sheetFacts,
  unaccepted,
  unknownReleases,
} from '#core/hold';
import { type LaidFile, layerFolders } from '#core/manifest';
import { movesBetween } from '#core/mend';
import { type Catalogue, knownReleases, modById, programMisfits, releaseAt } from '#core/mods';
import { topFolder } from '#core/paths';
import {
  departures,
  type DepotIdentity,
  type FoundFile,
  keysByPath,
  likeliestBuild,
  nameStrays,
  type SurveyRow,
} from '#core/survey';
import { treePath } from '~/folders';
import { freeBytes, layDownWays, sourceOf, toldTimesOf } from '~/places';
import { platformSha256 } from '~/remote';
import {
  bareOf,
  decidedOf,
  getHold,
  getGame,
  getIndex,
  getInstall,
  getLook,
  getProfile,
  getSession,
  getSurvey,
  listInstalls,
  listProfiles,
  listTrials,
  type Target,
} from '~/store';
import { alongFiles, alongOf } from './along';
import { dueNames } from './bench';
import { type BesideFolder, besideOf } from './beside';
import { asksSources, type AtHand, askSources, withFrames } from './bundling';
import { depotLines } from './depot-lines';
import { choicesOf } from './choosing';
import { evidenceOf } from './evidence';
import { changesOfInstall, keptContents } from './history';
import { keepLast } from './keep-last';
import { bytesToShelve } from './shelving';
import { onDiskOf } from './on-disk';
import { bytesFetched, storedOf } from './stored';
import {
  addressesOf,
  contentsOf,
  type InstallContext,
  installContext,
  identities,
  installedReleases,
  isFresh,
  learnManifests,
  manifestsOf,
  personalOrder,
  laidOf,
  treeOfTarget,
  treeToLie,
  unreadablePaths,
  type Wanted,
} from './install-context';
import type {
  AssembleView,
  BranchView,
  CopyElsewhere,
  FetchView,
  FrameView,
  HoldView,
  PlanView,
  ProofView,
  SwitchPlan,
} from './views';
import { expectedOf } from './surveying';
import { unfinishedOf } from './turning';

/*
 * Each function answers one question of the interface from the store alone. They run in a worker of their own, so
 * that no page waits for them; `client.ts` is the way in.
 */

/** What is to be laid down, and what is kept besides since mods cover it, each with where it comes from. */
interface Items {
  readonly laid: readonly FetchItem[];
  readonly covered: readonly FetchItem[];
}

const allOf = keepLast(({ laid, covered }: Items): readonly FetchItem[] => [...laid, ...covered]);

/** What of the disk fetching may build on. */
const keptAtHand = keepLast(
  (tree: string, { pathOf }: DiskContents, stored: OnDisk['stored'], beside: readonly BesideFolder[]): AtHand => ({
    ...{ tree, pathOf, stored, beside },
  }),
);
const atHandOf = async ({ install, found }: InstallContext): Promise<AtHand> =>
  keptAtHand(install.tree, contentsOf(found), await storedOf(install), await besideOf(install));

/** @param wanted what is to lie in the folder: the install's target, or the one that a job was started with */
async function itemsOf(
  here: InstallContext,
  wanted: Wanted | undefined = here.install.target,
): Promise<Items | undefined> {
  const target = wanted && (await treeToLie(here, wanted));
  if (!target || here.found.length === 0) return undefined;
  return keptItems(target, await onDiskOf(here));
}

const keptItems = keepLast((target: readonly TargetFile[], disk: OnDisk): Items => ({
  ...{ laid: whatToFetch(target, disk), covered: whatToFetch(coveredVanilla(target), disk) },
}));

/** Whether all releases of the target are known here: nothing tells otherwise which files they have. */
const knowsTarget = ({ catalogue, install: { target } }: InstallContext): boolean =>
  target !== undefined && knownReleases(catalogue, target.releases).size === target.releases.length;

/** Departures of the folder from the target, undefined where there is no target or no survey. */
async function departuresFromTarget(here: InstallContext): Promise<readonly SurveyRow[] | undefined> {
  const target = here.install.target && (await treeToLie(here, here.install.target));
  return !target || here.found.length === 0 ? undefined : departuresFrom(here, target);
}

/** What is wanted and what is held are asked for by many pages, and are mostly one and the same. */
const keptDrift = keepLast(drift, 2);

const departuresFrom = (here: InstallContext, wanted: readonly TargetFile[]): readonly SurveyRow[] =>
  keptDrift(wanted, here.found, here.index.game.rules, unreadablePaths(here), alongOf(here));

export async function frame(installId: string): Promise<FrameView> {
  const here = await installContext(installId);
  const { install, index, survey, found, trees } = here;
  const look = await getLook(install);
  // What a quick look found counts as long as nobody has looked at every file.
  const expected = survey && (await expectedOf(here));
  const ids = expected?.identities ?? look?.depots ?? [];
  const likeliest = likeliestBuild(ids, trees.keys());
  const evidence = await evidenceOf(here);
  const choices = survey ? choicesOf(here, evidence) : [];
  const items = await itemsOf(here);
  const hold = await getHold(installId);
  const departs = await departuresFromTarget(here);
  const held = hold && (await heldTree(here, hold.sheet));
  const newest = headBuild(index);
  // What a mod puts in place of the game's file is as it should be.
  const ofMods = new Set(here.installed.flatMap(({ files }) => files.map(({ path }) => path)));
  const totals = items && fetchTotals(allOf(items));
  const wire = items && install.target && (await wireNow(here, install.target.build, items));
  const { sources } = await getGame(install.game);
  const { title } = await getProfile(install);
  return {
    install,
    profile: title,
    index,
    service: sources.some(({ kind }) => kind === 'service'),
    mods: install.weights.length,
    modsHere: here.installed.length,
    builds: index.builds.map(({ label, date }, i) => ({
      label,
      date,
      branches: index.branches.filter(({ build }) => build === label).map(({ name }) => name),
      running: install.weights.length === 0 ? undefined : choices[i]?.running,
    })),
    onDisk: buildsOnDisk(ids, likeliest),
    likeliest,
    spokenOf: spokenOf(here, [likeliest, hold?.sheet.build, install.target?.build]),
    learnedAs: expected?.learned?.record.label,
    survey: survey && {
      at: survey.at,
      fresh: isFresh(here),
      departures: expected!.rows.filter(
        ({ path, state }) => (state === 'altered' || state === 'absent') && !ofMods.has(path),
      ).length,
    },
    lookedAt: look?.at,
    folderBytes: survey?.sizes.reduce((sum, size) => sum + size, 0) ?? look?.bytes,
    toFetch: totals && {
      files: totals.filesToFetch,
      bytes: wire ?? totals.toFetch,
      nowhere: items.laid.filter((item) => item.owner.kind === 'depot' && isNowhere(item)).length,
    },
    laid: isFresh(here) && knowsTarget(here) && departs?.length === 0,
    unfinished: await unfinishedOf(install, here.open),
    held: hold && {
      build: hold.sheet.build,
      loose: looseMeans(hold.sheet, hold.checks.at(-1)),
      isKnown: held?.tree !== undefined,
      drift:
        held?.tree && found.length > 0 && isFresh(here)
          ? unaccepted(departuresFrom(here, held.tree), hold.accepted ?? []).length
          : undefined,
    },
    lostNow: lostAt(choices, likeliest ?? newest),
    due: dueNames(here, evidence, likeliest),
    program: programOf(here),
    loaderSwitch: isFresh(here) ? survey?.loaderSwitch : undefined,
  };
}

/** Bytes on the wire that fetching takes, by what is known of bundles. */
async function wireNow(here: InstallContext, build: BuildLabel, items: Items): Promise<number> {
  const planned = await withFrames({ here, build, items: keptWanted(allOf(items)), atHand: await atHandOf(here) });
  const { plain, compressed } = keptCost(planned.items, planned.frames);
  return plain + compressed;
}
const keptCost = keepLast(wireCost);

/** What lies there as the game's program, and what of the mods does not fit it; undefined where nothing is known of it. */
function programOf({ index, programs, found, catalogue, ...here }: InstallContext): FrameView['program'] {
  const path = index.game.rules.program;
  if (path === undefined || found.length === 0) return undefined;
  const key = keysByPath(found).get(path);
  const [sha256, ...more] = key === undefined ? [] : keyPieces(key);
  const same = [...programs].filter(([, file]) => file.key === key);
  // Of an unknown program of several pieces nobody knows the whole digest: it fits nothing.
  const known = more.length === 0 ? sha256 : same[0]?.[1].sha256;
  return {
    path,
    isThere: key !== undefined,
    builds: same.map(([build]) => build),
    misfits: programMisfits(catalogue, installedReleases(here), known),
  };
}

function spokenOf(
  { index, catalogue, install }: InstallContext,
  more: readonly (BuildLabel | undefined)[],
): Set<BuildLabel> {
  const releases = install.weights.flatMap(([id]) => modById(catalogue, id)?.releases ?? []);
  return new Set([
    ...index.branches.map(({ build }) => build),
    ...releases.flatMap(({ builds }) => builds),
    ...more.filter((build) => build !== undefined),
  ]);
}

function lostAt(choices: readonly BuildChoice[], build: BuildLabel | undefined): number | undefined {
  return choices.find((choice) => choice.build === build)?.lost.size;
}

/** The likeliest build alone where each depot agrees with it, otherwise the builds of those that do not as well. */
function buildsOnDisk(ids: readonly Pick<DepotIdentity, 'builds'>[], likeliest: BuildLabel | undefined): BuildLabel[] {
  if (likeliest === undefined) return [];
  const others = ids.flatMap(({ builds }) =>
    builds.length === 0 || builds.includes(likeliest) ? [] : [builds.at(-1)!],
  );
  return [...new Set([likeliest, ...others])];
}

/** Of mods that lie nowhere the release is named; what depots lack is part of the picture. */
const keptWanted = keepLast((items: readonly FetchItem[]): readonly FetchItem[] =>
  items.filter((item) => item.owner.kind === 'depot' || !isNowhere(item)),
);

export async function fetchView(installId: string, wanted?: Target): Promise<FetchView | undefined> {
  const here = await installContext(installId);
  const target = wanted ?? here.install.target;
  const items = await itemsOf(here, target);
  if (!items || !target) return undefined;
  const { build } = target;
  const counting = new Set(here.depots.map(({ id }) => id));
  const gone = items.laid.flatMap((item) => (item.owner.kind === 'mod' && isNowhere(item) ? [item.owner.mod] : []));
  const branches = branchesTo(here, build);
  const wish = { here, build, items: keptWanted(allOf(items)), ...(await meansOf(here)) };
  const planned = await withFrames(wish);
  const byStorefront = planned.items.filter(({ owner, source }) => owner.kind === 'depot' && source.how !== 'keep');
  return {
    build,
    items: planned.items,
    frames: planned.frames,
    asksSources: await asksSources(wish, planned),
    depots: here.depots,
    notCounting: here.index.depots.filter(({ id }) => !counting.has(id)),
    withoutFiles: withoutFiles(here, target.releases, new Set(gone)),
    lines: depotLines(here, target, items.laid),
    needsCode: branches.every(({ needsCode }) => needsCode) ? branches.map(({ name }) => name) : [],
    branches,
    room: await leastRoom(here, items, target),
    byBranch: { files: byStorefront.length, bytes: byStorefront.reduce((sum, { size }) => sum + size, 0) },
    free: await freeBytes(here.install),
  };
}

/** What there is to fetch by: what lies on the disk, and a sign-in. */
async function meansOf(here: InstallContext): Promise<{ atHand: AtHand; token: string | undefined }> {
  const [atHand, session] = await Promise.all([atHandOf(here), getSession(here.install.game)]);
  return { atHand, token: session?.token };
}

/**
 * Asks sources for what they have compressed of a target, as far as it may help, and whether they give parts.
 * @returns the first failure: what it is of comes as it is
 */
export async function learnSources(installId: string, wanted?: Target): Promise<WireFailure | undefined> {
  const here = await installContext(installId);
  const target = wanted ?? here.install.target;
  const items = await itemsOf(here, target);
  if (!items || !target) return undefined;
  return askSources({ here, build: target.build, items: keptWanted(allOf(items)), ...(await meansOf(here)) });
}

/** Plans by which frames any files of a build come, asking sources first for what they have compressed of it. */
export async function planFetch(installId: string, build: BuildLabel, items: readonly FetchItem[]): Promise<Planned> {
  const here = await installContext(installId);
  const wish = { here, build, items, ...(await meansOf(here)) };
  await askSources(wish);
  return withFrames(wish);
}

/** What laying down needs on top of what the disk holds, by the way that needs least. */
async function leastRoom(here: InstallContext, { laid }: Items, target: Target): Promise<number> {
  const laying = layDownPlan(laid, here.found, here.index.game.rules, alongOf(here));
  const now = await roomNow(here, target);
  // In parts it needs less, at the price of what it cannot take back: nobody plans for that.
  const ways = (await layDownWays(here.install.place)).filter((way) => way !== 'in-parts');
  return Math.min(...ways.map((way) => roomNeeded(roomOverTime(laying, now, way))));
}

const roomNow = async (here: InstallContext, target: Target): Promise<RoomNow> => ({
  oldBytes: here.found.reduce((sum, { size }) => sum + size, 0),
  fetchedBytes: await bytesFetched(here.install),
  toShelve: await bytesToShelve(here, target),
});

/** The branches that lead to a build just now; those that need no code first. */
function branchesTo({ index }: InstallContext, build: BuildLabel): BranchView[] {
  const heads = index.branches.filter((branch) => branch.build === build);
  return heads
    .map(({ name, needsCode }) => {
      const own = index.builds.filter(({ branch }) => branch === name);
      return { name, needsCode, since: own.find(({ label }) => label === build)?.date, builds: own.length };
    })
    .toSorted((a, b) => Number(a.needsCode) - Number(b.needsCode));
}

/**
 * Releases that cannot be fetched: the catalogue has them no longer, nobody but the person ever knew them, or their only
 * files are gone from the disk.
 */
function withoutFiles(
  { catalogue }: InstallContext,
  releases: readonly (readonly [ModId, string])[],
  gone: ReadonlySet<ModId>,
): FetchView['withoutFiles'] {
  return releases.flatMap(([id, version]) => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    const why = !release ? 'withdrawn' : release.files.length === 0 ? 'no-files' : gone.has(id) ? 'gone' : undefined;
    return why ? [{ name: mod?.name ?? id, release: version, why }] : [];
  });
}

async function planOf(
  here: InstallContext,
  target?: Target,
  without?: ReadonlySet<string>,
): Promise<{ plan: LayDownPlan; items: Items } | undefined> {
  const items = await itemsOf(here, target);
  return items && { items, plan: layDownPlan(items.laid, here.found, here.index.game.rules, alongOf(here), without) };
}

/** Where a content lies on the disk; nothing where it has to be fetched. */
function placeOf(tree: string, key: ContentKey, source: Source): [ContentKey, string][] {
  switch (source.how) {
    case 'keep':
    case 'elsewhere':
      return [[key, treePath(tree, source.path)]];
    case 'stored':
      return [[key, source.path]];
    case 'write':
    case 'fetch':
      return [];
  }
}

/** What it takes to have another profile's target in the folder, and nothing else of mods. */
export async function switchPlan(installId: string, profile: string): Promise<SwitchPlan> {
  const here = await installContext(installId);
  const to = (await listProfiles(installId)).find(({ id }) => id === profile);
  if (!to?.target) throw new Failure('profile/no-target', { profile: to?.title ?? profile });
  const { install } = here;
  // As it is once the profile counts.
  const there: InstallContext = { ...here, install: { ...bareOf(install), ...decidedOf(to) } };
  const planned = await planOf(there, to.target);
  if (!planned) throw new Failure('job/not-checked-out', { what: 'target or survey' });
  const { items, plan } = planned;
  return {
    build: to.target.build,
    rows: plan.rows,
    found: keysByPath(here.found),
    toFetch: allOf(items).filter(({ source }) => source.how === 'fetch'),
    nowhere: allOf(items).filter((item) => item.owner.kind === 'depot' && isNowhere(item)).length,
    covered: new Map(items.covered.flatMap(({ key, source }) => placeOf(install.tree, key, source))),
    along: alongFiles(here),
    left: install.target ?? standingTarget(here),
  };
}

/** Files of now in the folder that are of no release and come along. */
export const alongNow = async (installId: string): Promise<OwnFile[]> => alongFiles(await installContext(installId));

/** What lies in the folder as a target, for a profile that never had one. */
function standingTarget(here: InstallContext): Target | undefined {
  const build = likeliestBuild(identities(here), here.trees.keys());
  if (!build) return undefined;
  const releases = installedReleases(here);
  return { build, releases: [...releases], order: personalOrder(here, releases), decidedBy: 'choice', at: Date.now() };
}

/**
 * @param without files that are not waited for
 * @throws Failure `job/not-checked-out` while there is no target or no survey
 */
export async function plan(installId: string, target: Target, without: readonly string[] = []): Promise<PlanView> {
  const here = await installContext(installId);
  const planned = await planOf(here, target, new Set(without));
  if (!planned) throw new Failure('job/not-checked-out', { what: 'target or survey' });
  const { waivable, addresses } = differencesOf(here, planned.plan);
  return {
    build: target.build,
    rows: planned.plan.rows,
    missing: planned.plan.missing.map(({ path }) => path),
    moves: movesBetween(installedReleases(here), new Map(target.releases), here.catalogue),
    covered: new Map(planned.items.covered.flatMap(({ key, source }) => placeOf(here.install.tree, key, source))),
    found: keysByPath(here.found),
    waivable,
    fetchable: new Map(waivable.flatMap(({ found }) => (found === null ? [] : [[found, addresses.get(found)!]]))),
  };
}

/** What differs from a plan, and of that what a source has, so that it need not be kept. */
function differencesOf(here: InstallContext, { rows, missing }: LayDownPlan) {
  const wanted = new Map([...rows, ...missing].map(({ path, key }) => [path, key]));
  const all = differences(wanted, keysByPath(here.found));
  const addresses = addressesOf(here);
  return { all, addresses, waivable: withoutKeeping(all, wanted, new Set(addresses.keys())) };
}

/** How a plan may be laid down here, each way with its room over time; in parts only where that keeps less. */
async function waysOf(
  here: InstallContext,
  laying: LayDownPlan,
  target: Target,
): Promise<Pick<AssembleView, 'ways' | 'notKept'>> {
  const now = await roomNow(here, target);
  const { all, waivable } = differencesOf(here, laying);
  const toFetch = laying.missing.reduce((sum, { size }) => sum + size, 0);
  const ways = (await layDownWays(here.install.place)).flatMap((way): AssembleView['ways'] => {
    if (way !== 'in-parts') return [{ way, ...roomOverTime(laying, now, way) }];
    return waivable.length === 0 ? [] : [{ way, ...roomOverParts(roomInParts(all, waivable), now, toFetch) }];
  });
  const bytes = waivable.reduce((sum, { found }) => sum + (found === null ? 0 : keySize(found)), 0);
  return { ways, notKept: { files: waivable.length, bytes } };
}

/** Depots whose copies another depot covers, by path. */
const depotsUnder = (laid: readonly LaidFile[]): Map<string, readonly DepotId[]> =>
  new Map(laid.flatMap(({ path, covers }) => (covers.length > 0 ? [[path, covers] as const] : [])));

/**
 * What the folder has of what is held, or else wanted, byte for byte as it was read last; undefined without a target or a
 * survey.
 */
export async function proof(installId: string): Promise<ProofView | undefined> {
  const here = await installContext(installId);
  const { install, index, found, survey } = here;
  const hold = await getHold(installId);
  const wanted: Wanted | undefined = hold ? sheetTarget(hold.sheet) : install.target;
  const tree = hold ? (await heldTree(here, hold.sheet)).tree : wanted && (await treeToLie(here, wanted));
  const laid = wanted && (await laidOf(here, wanted));
  if (!tree || !laid || !survey) return undefined;
  const made = (await changesOfInstall(installId)).find(
    ({ what, facts }) => what === 'lay-down' && facts['build'] === wanted.build,
  );
  const { begunAt, endedAt } = made ?? {};
  return {
    proof: await proofOf(tree, keysByPath(found), platformSha256, depotsUnder(laid)),
    build: wanted.build,
    ...{ at: survey.at, fresh: isFresh(here), trusted: survey.trusted },
    depots: new Map(index.depots.map(({ id, title }) => [id, title])),
    ...(begunAt !== undefined && {
      laid: { at: begunAt, seconds: endedAt === undefined ? undefined : (endedAt - begunAt) / 1000 },
    }),
  };
}

export async function assemble(installId: string): Promise<AssembleView | undefined> {
  const here = await installContext(installId);
  const planned = await planOf(here);
  const { target } = here.install;
  const build = target?.build;
  const manifests = build && (await manifestsOf(here.index, here.depots, build));
  if (!planned || !target || !build || !manifests) return undefined;
  const { plan: laying, items } = planned;
  const laid = here.trees.get(build)!;
  const wanted = new Set(items.laid.map(({ path }) => path));
  const along = alongOf(here);
  const under = depotsUnder(laid);
  const byDepot = new Map(layerFolders(manifests, laid, topFolder).map(({ depot, folders }) => [depot, folders]));
  const count = (how: string): number => laying.rows.filter((row) => !row.own && row.source.how === how).length;
  const likeliest = likeliestBuild(identities(here), here.trees.keys()) ?? build;
  const rows = departures(here.trees.get(likeliest)!, here.found);
  const names = nameStrays(rows, here.trees, here.installed, here.catalogue, here.index.game.rules);
  return {
    build,
    layers: here.index.depots.flatMap((depot) => {
      const own = byDepot.get(depot.id);
      // One that counts may be of other builds alone.
      if (!own && here.depots.some(({ id }) => id === depot.id)) return [];
      const folders = own ?? new Map<string, { stays: number; covered: number }>();
      const bytes = [...folders.values()].reduce((sum, { stays, covered }) => sum + stays + covered, 0);
      return { depot, counts: own !== undefined, bytes, folders };
    }),
    folders: folderSums(items.laid),
    files: laying.rows.length + laying.missing.length,
    bytes: items.laid.reduce((sum, { size }) => sum + size, 0),
    covered: laid.reduce((sum, { covers }) => sum + covers.length, 0),
    counts: {
      keep: count('keep'),
      elsewhere: count('elsewhere'),
      stored: count('stored'),
      write: count('write'),
      own: laying.rows.filter(({ own }) => own).length,
      missing: laying.missing.length,
    },
    missing: laying.missing.slice(0, MOST_NAMED).map(({ path }) => path),
    leftBehind: laying.leftBehind.map((file) => ({
      ...{ file, name: names.get(file.path) },
      canCome: !wanted.has(file.path),
    })),
    along: laying.rows.filter(({ path, own }) => own && along.has(path)).map(({ path, size }) => ({ path, size })),
    overlaps: items.laid.flatMap(({ path, owner, covers = [] }) => {
      const depots = (under.get(path) ?? []).map((depot): Owner => ({ kind: 'depot', depot }));
      const all = [...depots, ...covers.map((copy) => copy.owner)];
      return all.length > 0 ? [{ path, owner, covers: all }] : [];
    }),
    ...(await waysOf(here, laying, target)),
    laid: isFresh(here) && knowsTarget(here) && (await departuresFromTarget(here))?.length === 0,
    fresh: isFresh(here),
  };
}

/** Files still to come that Assemble names. */
const MOST_NAMED = 100;

type FolderSum = AssembleView['folders'][number];
const FOLDER_PART = { keep: 'kept', write: 'kept', elsewhere: 'moved', stored: 'stored', fetch: 'missing' } as const;

function folderSums(items: readonly FetchItem[]): AssembleView['folders'] {
  const sums = new Map<string, { -readonly [Part in keyof FolderSum]: FolderSum[Part] }>();
  for (const { path, size, source } of items) {
    const name = topFolder(path);
    let sum = sums.get(name);
    if (!sum) sums.set(name, (sum = { name, bytes: 0, kept: 0, moved: 0, stored: 0, missing: 0 }));
    sum.bytes += size;
    sum[FOLDER_PART[source.how]] += size;
  }
  return [...sums.values()].toSorted((a, b) => b.bytes - a.bytes);
}

export const sheetTarget = ({ build, depots, releases, loadOrder, modList }: HoldSheet): Wanted => ({
  build,
  manifests: depots.map(({ manifestSha256 }) => manifestSha256),
  releases: releases.map(({ mod, release }) => [mod, release]),
  order: loadOrder,
  list: modList ?? '',
});

const keptUnknown = keepLast((catalogue: Catalogue, releases: string) =>
  unknownReleases(JSON.parse(releases) as HoldSheet['releases'], catalogue, platformSha256),
);

/** What is held: its tree, or what of it is not known here, so that nothing can be held against it. */
async function heldTree(
  here: InstallContext,
  sheet: HoldSheet,
): Promise<{ readonly tree?: readonly TargetFile[]; readonly unknown: readonly string[] }> {
  const unknown = await keptUnknown(here.catalogue, JSON.stringify(sheet.releases));
  const tree = await treeToLie(here, sheetTarget(sheet));
  if (!tree) return { unknown: [sheet.build, ...unknown] };
  return unknown.length > 0 ? { unknown } : { tree, unknown };
}

/** The player's settings in the folder, by the game's rules, as they were surveyed. */
function settingsOf({ found, index }: InstallContext): FoundFile[] {
  return found.filter(({ path }) => ownRule(index.game.rules, path)?.kind === 'settings');
}

async function draftSheet(here: InstallContext): Promise<HoldSheet> {
  const { install, index } = here;
  const target = install.target!;
  const tree = (await treeOfTarget(here, target))!;
  const { build, releases, order } = target;
  const subject = { build, ownership: install.ownership, releases, order };
  return {
    format: 'regressum-hold-sheet',
    version: HOLD_SHEET_VERSION,
    heldAt: new Date().toISOString(),
    game: { id: index.game.id, title: index.game.title },
    build: target.build,
    ownership: install.ownership,
    ...(await sheetFacts(subject, here, tree, platformSha256)),
    weights: Object.fromEntries(install.weights),
    settings: await settingsFact(settingsOf(here), platformSha256),
    ...(target.decision && { decision: target.decision }),
    means: ['update-setting', 'record-lock'],
  };
}

export async function holdView(installId: string): Promise<HoldView> {
  const here = await installContext(installId);
  const hold = await getHold(installId);
  const trials = await listTrials(installId);
  const held = hold && (await heldTree(here, hold.sheet));
  const departs = held
    ? held.tree && unaccepted(departuresFrom(here, held.tree), hold.accepted ?? [])
    : await departuresFromTarget(here);
  const departures = departs ?? [];
  const whyNoDraft = !here.install.target
    ? 'no-target'
    : !departs || !isFresh(here)
      ? 'not-surveyed'
      : departs.length > 0
        ? 'departs'
        : undefined;
  const draft = whyNoDraft === undefined && !hold ? await draftSheet(here) : undefined;
  const claimed = here.install.target?.sheetDigest;
  const isAsClaimed = !draft || claimed === undefined || claimed === draft.treeDigest;
  return {
    hold,
    draft: isAsClaimed ? draft : undefined,
    whyNoDraft: isAsClaimed ? whyNoDraft : 'not-as-sheet',
    departures,
    unknown: held?.unknown ?? [],
    settings: hold?.sheet.settings
      ? (await settingsFact(settingsOf(here), platformSha256)).digest === hold.sheet.settings.digest
      : undefined,
    causes: hold ? driftCauses(departures, hold.sheet.build, here) : [],
    repair: hold && departures.length > 0 ? await repairOf(here, sheetTarget(hold.sheet)) : undefined,
    trials,
  };
}

/** Files of the folder that are as they are held and that nobody has to write: no list of mods, and nothing that a person sets. */
export async function heldPaths(installId: string, sheet: HoldSheet): Promise<readonly string[]> {
  const here = await installContext(installId);
  const { rules } = here.index.game;
  const there = keysByPath(here.found);
  const tree = (await treeOfTarget(here, sheetTarget(sheet))) ?? [];
  return tree.flatMap(({ path, key, owner }) =>
    owner.kind !== 'written' && there.get(path) === key && ownKind(rules, path) === undefined ? [path] : [],
  );
}

/** The other folder of the game that has most of what is held, as it was surveyed; undefined where there is none. */
export async function copyElsewhere(installId: string): Promise<CopyElsewhere | undefined> {
  const here = await installContext(installId);
  const hold = await getHold(installId);
  const tree = hold && (await treeOfTarget(here, sheetTarget(hold.sheet)));
  if (!tree) return undefined;
  let best: CopyElsewhere | undefined;
  for (const other of await listInstalls()) {
    if (other.id === installId || other.game !== here.install.game) continue;
    const survey = await getSurvey(other);
    if (!survey) continue;
    const keys = new Map(survey.paths.map((path, i) => [path, survey.keys[i]]));
    const right = tree.filter(({ path, key }) => keys.get(path) === key).length;
    if (right > (best?.right ?? 0)) best = { title: other.title, id: other.id, at: survey.at, right, of: tree.length };
  }
  return best;
}

/** What it takes to have what is held in the folder again. */
async function repairOf(here: InstallContext, target: Wanted): Promise<HoldView['repair']> {
  const items = await itemsOf(here, target);
  if (!items) return undefined;
  const totals = fetchTotals(allOf(items));
  return { target, toFetch: totals.toFetch };
}

/**
 * What of the folder is not as it was surveyed, by names, sizes and times, without the player's files: how many files, and a text that
 * is another one for other files; undefined where it was never surveyed or cannot be looked at now.
 */
export async function sinceSurvey(
  installId: string,
): Promise<{ readonly files: number; readonly which: string } | undefined> {
  const { install, survey, index } = await installContext(installId);
  if (!survey) return undefined;
  const { rules } = index.game;
  const [source, told] = [await sourceOf(install, install.tree), toldTimesOf(install)];
  const prefix = source.root === '' ? 0 : source.root.length + 1;
  const before = new Map(survey.paths.map((path, i) => [path, i]));
  const unread = new Set(survey.unreadable.map(({ path }) => path));
  const changed: string[] = [];
  for (const { path: full, size, modified } of await source.reader.list(source.root)) {
    const path = full.slice(prefix);
    const i = before.get(path);
    before.delete(path);
    if (unread.has(path) || ownKind(rules, path) !== undefined) continue;
    if (i === undefined || survey.sizes[i] !== size || survey.modified[i] !== told(path, modified)) changed.push(path);
  }
  for (const path of before.keys()) if (ownKind(rules, path) === undefined) changed.push(path);
  return { files: changed.length, which: await platformSha256(JSON.stringify(changed)) };
}

/**
 * Brings the manifests into the store that this install needs. One that cannot be had keeps nobody from the others.
 * @param ownership with which it would need them, where that is not as it has been so far
 * @throws Failure `service/*`, `metalink/*` where no build is known without those that failed, or for another ownership
 */
export async function learn(installId: string, ownership?: Ownership): Promise<void> {
  const install = await getInstall(installId);
  const index = await getIndex(install.game);
  try {
    await learnManifests(index, ownership ?? install.ownership);
  } catch (error) {
    if (!isFailure(error) || ownership || (await installContext(installId)).trees.size === 0) throw error;
  }
}

/** The copy of a build that is kept for the day after the next update, with the mods that belong to it; undefined without one. */
export async function keptCopy(installId: string, build: BuildLabel): Promise<ToldReference | undefined> {
  const install = await getInstall(installId);
  return (await keptContents(installId))?.find(
    ({ reason }) => reason.kind === 'build' && reason.game === install.game && reason.build === build,
  );
}
