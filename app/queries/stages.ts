import { layDownPlan, type LayDownPlan, roomOverTime } from '#core/assemble';
import { type BuildLabel, buildOrder, type ModId, newestBuild, type Ownership } from '#core/builds';
import { type BuildChoice, chooseAll } from '#core/choose';
import type { ContentKey } from '#core/digest';
import { Failure } from '#core/failure';
import { fetchTotals, isNowhere, type FetchItem, whatToFetch } from '#core/fetch';
import { drift, HOLD_SHEET_VERSION, type HoldSheet, sheetFacts } from '#core/hold';
import { layerFolders } from '#core/manifest';
import { mendSteps } from '#core/mend';
import { modById, releaseAt } from '#core/mods';
import { fileName, topFolder } from '#core/paths';
import { compareTree, type DepotIdentity, likeliestBuild, nameStrays, type SurveyRow } from '#core/survey';
import { browserDisk, FETCHED, INSTALL_DISK, layDownWays, servedStore } from '~/folders';
import { canChange } from '~/places';
import { depotIndex, modCatalogue, platformSha256, servedToken } from '~/remote';
import {
  getHold,
  getIndex,
  getInstall,
  getLook,
  type HoldCheck,
  type Install,
  listTrials,
  putServices,
  saidDigest,
  type Target,
} from '~/store';
import { choicesOf } from './choosing';
import { choosingBy, evidenceOf } from './evidence';
import {
  type InstallContext,
  installContext,
  identities,
  installedReleases,
  isFresh,
  learnManifests,
  manifestsOf,
  treeOfTarget,
  unreadablePaths,
} from './install-context';
import type { AssembleView, FetchView, FrameView, HoldView, MendView, PlanView } from './views';
import { expectedOf } from './surveying';

/*
 * Each function answers one question of the interface from the store alone. They run in a worker of their own, so
 * that no page waits for them; `client.ts` is the way in.
 */

/** Contents that were fetched for this install and wait to be laid down, by SHA-256. */
async function fetchedContents({ id, place }: Install): Promise<Set<string>> {
  const store =
    place.kind === 'browser-disk' || place.kind === 'picked'
      ? browserDisk(INSTALL_DISK(id))
      : place.kind === 'served' && (await canChange(place))
        ? servedStore({ ...place, token: servedToken() })
        : undefined;
  const entries = (await store?.list(FETCHED)) ?? [];
  return new Set(entries.map(({ path }) => fileName(path)).filter((name) => !name.endsWith('.part')));
}

/** @param wanted what is to lie in the folder: the install's target, or the one that a job was started with */
async function itemsOf(here: InstallContext, wanted = here.install.target): Promise<FetchItem[] | undefined> {
  const { install, found } = here;
  const target = wanted && (await treeOfTarget(here, wanted));
  if (!target || found.length === 0) return undefined;
  const there = await fetchedContents(install);
  const fetched = new Set<ContentKey>(target.filter(({ sha256 }) => there.has(sha256)).map(({ key }) => key));
  return whatToFetch(target, { files: found, fetched });
}

/** Departures of the folder from the target, undefined where there is no target or no survey. */
async function departuresFromTarget(here: InstallContext): Promise<SurveyRow[] | undefined> {
  const target = here.install.target && (await treeOfTarget(here, here.install.target));
  if (!target || here.found.length === 0) return undefined;
  return drift(target, here.found, here.index.game.rules, unreadablePaths(here));
}

export async function frame(installId: string): Promise<FrameView> {
  const here = await installContext(installId);
  const { install, index, survey, found, trees } = here;
  const look = await getLook(install);
  // What a quick look found counts as long as nobody has looked at every file.
  const expected = survey && (await expectedOf(here));
  const ids = expected?.identities ?? look?.depots ?? [];
  const likeliest = likeliestBuild(ids, trees.keys());
  const choices = survey ? choicesOf(here, await evidenceOf(here)) : [];
  const items = await itemsOf(here);
  const hold = await getHold(installId);
  const departs = await departuresFromTarget(here);
  const heldTree = hold && (await treeOfTarget(here, sheetTarget(hold.sheet)));
  const newest = newestBuild(index, 'main');
  const totals = items && fetchTotals(items);
  return {
    install,
    index,
    mods: install.weights.length,
    modsHere: here.installed.length,
    builds: index.builds.map(({ label, date }, i) => ({
      label,
      date,
      branches: index.branches.filter(({ build }) => build === label).map(({ name }) => name),
      running: choices[i]?.running,
    })),
    onDisk: buildsOnDisk(ids, likeliest),
    likeliest,
    spokenOf: spokenOf(here, [likeliest, hold?.sheet.build, install.target?.build]),
    learnedAs: expected?.learned?.record.label,
    survey: survey && {
      at: survey.at,
      fresh: isFresh(here),
      departures: expected!.rows.filter(({ state }) => state === 'altered' || state === 'absent').length,
    },
    lookedAt: look?.at,
    folderBytes: survey?.sizes.reduce((sum, size) => sum + size, 0) ?? look?.bytes,
    toFetch: totals && { files: totals.filesToFetch, bytes: totals.toFetch },
    laid: departs !== undefined && departs.length === 0,
    held: hold && {
      build: hold.sheet.build,
      loose: looseMeans(hold.checks.at(-1)),
      drift:
        heldTree && found.length > 0 && isFresh(here)
          ? drift(heldTree, found, index.game.rules, unreadablePaths(here)).length
          : undefined,
    },
    lostNow: lostAt(choices, likeliest ?? newest),
  };
}

function looseMeans(check: HoldCheck | undefined): ('setting' | 'lock')[] {
  return check ? (['setting', 'lock'] as const).filter((means) => check[means] === false) : [];
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

export async function fetchView(installId: string, wanted?: Target): Promise<FetchView | undefined> {
  const here = await installContext(installId);
  const target = wanted ?? here.install.target;
  const items = await itemsOf(here, target);
  if (!items || !target) return undefined;
  const { build } = target;
  const counting = new Set(here.depots.map(({ id }) => id));
  const gone = items.flatMap((item) => (item.owner.kind === 'mod' && isNowhere(item) ? [item.owner.mod] : []));
  const branches = here.index.branches.filter((branch) => branch.build === build);
  return {
    build,
    items: items.filter((item) => !isNowhere(item)),
    depots: here.depots,
    notCounting: here.index.depots.filter(({ id }) => !counting.has(id)),
    withoutFiles: withoutFiles(here, target.releases, new Set(gone)),
    needsCode: branches.every(({ needsCode }) => needsCode) ? branches.map(({ name }) => name) : [],
  };
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
): Promise<{ plan: LayDownPlan; items: FetchItem[] } | undefined> {
  const items = await itemsOf(here, target);
  return items && { items, plan: layDownPlan(items, here.found, here.index.game.rules) };
}

/** @throws Failure `job/not-checked-out` while there is no target or no survey */
export async function plan(installId: string, target: Target): Promise<PlanView> {
  const here = await installContext(installId);
  const planned = await planOf(here, target);
  if (!planned) throw new Failure('job/not-checked-out', { what: 'target or survey' });
  return {
    build: target.build,
    rows: planned.plan.rows,
    missing: planned.plan.missing.map(({ path }) => path),
    sha256: new Map(planned.items.map(({ path, sha256 }) => [path, sha256])),
    found: new Map(here.found.map(({ path, key }) => [path, key])),
  };
}

export async function assemble(installId: string): Promise<AssembleView | undefined> {
  const here = await installContext(installId);
  const planned = await planOf(here);
  const build = here.install.target?.build;
  const manifests = build && (await manifestsOf(here.index, here.depots, build));
  if (!planned || !build || !manifests) return undefined;
  const { plan: laying, items } = planned;
  const laid = here.trees.get(build)!;
  const byDepot = new Map(layerFolders(manifests, laid, topFolder).map(({ depot, folders }) => [depot, folders]));
  const count = (how: string): number => laying.rows.filter((row) => !row.own && row.source.how === how).length;
  const rows = compareTree(here.trees.get(likeliestBuild(identities(here), here.trees.keys()) ?? build)!, here.found);
  const names = nameStrays(rows, here.trees, here.installed, here.catalogue, here.index.game.rules);
  const oldBytes = here.found.reduce((sum, { size }) => sum + size, 0);
  const fetchedBytes = items.filter(({ source }) => source.how === 'fetched').reduce((sum, { size }) => sum + size, 0);
  return {
    build,
    layers: here.index.depots.map((depot) => {
      const folders = byDepot.get(depot.id) ?? new Map<string, { stays: number; covered: number }>();
      const bytes = [...folders.values()].reduce((sum, { stays, covered }) => sum + stays + covered, 0);
      return { depot, counts: byDepot.has(depot.id), bytes, folders };
    }),
    folders: folderSums(items),
    files: laying.rows.length + laying.missing.length,
    bytes: items.reduce((sum, { size }) => sum + size, 0),
    covered: laid.reduce((sum, { covers }) => sum + covers.length, 0),
    counts: {
      keep: count('keep'),
      elsewhere: count('elsewhere'),
      fetched: count('fetched'),
      write: count('write'),
      own: laying.rows.filter(({ own }) => own).length,
      missing: laying.missing.length,
    },
    leftBehind: laying.leftBehind.map((file) => ({ file, name: names.get(file.path) })),
    ways: layDownWays(here.install.place).map((way) => ({ way, ...roomOverTime(laying, oldBytes, fetchedBytes, way) })),
    laid: (await departuresFromTarget(here))?.length === 0,
  };
}

function folderSums(items: readonly FetchItem[]): AssembleView['folders'] {
  const sums = new Map<string, AssembleView['folders'][number]>();
  for (const { path, size, source } of items) {
    const name = topFolder(path);
    const sum = sums.get(name) ?? { name, bytes: 0, kept: 0, moved: 0, fetched: 0, missing: 0 };
    const part = { keep: 'kept', write: 'kept', elsewhere: 'moved', fetched: 'fetched', fetch: 'missing' } as const;
    sums.set(name, { ...sum, bytes: sum.bytes + size, [part[source.how]]: sum[part[source.how]] + size });
  }
  return [...sums.values()].toSorted((a, b) => b.bytes - a.bytes);
}

export const sheetTarget = ({
  build,
  releases,
}: HoldSheet): { build: BuildLabel; releases: [HoldSheet['releases'][number]['mod'], string][] } => ({
  build,
  releases: releases.map(({ mod, release }) => [mod, release]),
});

async function draftSheet(here: InstallContext): Promise<HoldSheet> {
  const { install, index } = here;
  const target = install.target!;
  const tree = (await treeOfTarget(here, target))!;
  const subject = { build: target.build, ownership: install.ownership, releases: target.releases };
  return {
    format: 'regressum-hold-sheet',
    version: HOLD_SHEET_VERSION,
    heldAt: new Date().toISOString(),
    game: { id: index.game.id, title: index.game.title },
    build: target.build,
    ownership: install.ownership,
    ...(await sheetFacts(subject, here, tree, platformSha256)),
    weights: Object.fromEntries(install.weights),
    ...(target.decision && { decision: target.decision }),
    means: ['update-setting', 'record-lock'],
  };
}

export async function holdView(installId: string): Promise<HoldView> {
  const here = await installContext(installId);
  const hold = await getHold(installId);
  const trials = await listTrials(installId);
  const held = hold && (await treeOfTarget(here, sheetTarget(hold.sheet)));
  const departs = held
    ? drift(held, here.found, here.index.game.rules, unreadablePaths(here))
    : await departuresFromTarget(here);
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
    departures: departs ?? [],
    trials,
  };
}

/**
 * What becomes of the mods when the folder goes to `to` (the newest build of the main branch where it is undefined).
 * Undefined before the first survey.
 */
export async function mend(installId: string, to: BuildLabel | undefined): Promise<MendView | undefined> {
  const here = await installContext(installId);
  const { index, catalogue, trees, install } = here;
  const build = to !== undefined && buildOrder(index, to) >= 0 ? to : newestBuild(index, 'main');
  const onDisk = likeliestBuild(identities(here), trees.keys());
  // The storefront may have taken the folder there already: what counts then is the build that the mods were chosen for.
  const from = onDisk === build ? (install.target?.build ?? onDisk) : onDisk;
  if (!from || !build || !trees.get(from) || !trees.get(build)) return undefined;
  const evidence = await evidenceOf(here);
  const input = evidence.inputAt(build);
  const installed = installedReleases(here);
  const pins = new Map(install.pins ?? []);
  const options = { pins, ...choosingBy(evidence) };
  const choice = chooseAll([build], catalogue, new Map(install.weights), installed, options)[0]!;
  const { changes, touched } = input.impactSince(from);
  return {
    from,
    to: build,
    changes,
    steps: mendSteps(choice, installed, input),
    catalogue,
    choice,
    level: evidence.level,
    touched: new Map(
      catalogue.mods.map((mod) => {
        const release = releaseAt(mod, installed.get(mod.id) ?? '') ?? mod.releases.at(-1)!;
        return [mod.id, (release.touches ?? []).filter((path) => touched.has(path))];
      }),
    ),
  };
}

/**
 * Brings the index and the catalogue up to date; what was known before stays where a service cannot be reached or what it
 * says does not fit.
 * @throws Failure `service/*`, `json/*` with line and field
 */
export async function refreshServices(): Promise<void> {
  const [known, knownMods] = await Promise.all([saidDigest('index'), saidDigest('catalogue')]);
  const [index, catalogue] = await Promise.all([depotIndex(known), modCatalogue(knownMods)]);
  await putServices(index, catalogue);
}

/**
 * Brings the manifests into the store that this install needs.
 * @param ownership with which it would need them, where that is not as it has been so far
 */
export async function learn(installId: string, ownership?: Ownership): Promise<void> {
  const [install, index] = await Promise.all([getInstall(installId), getIndex()]);
  await learnManifests(index, ownership ?? install.ownership);
}
