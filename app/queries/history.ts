import {
  asideOf,
  type HistoryEntry,
  isAsRead,
  type Journalled,
  keptPath,
  othersIn,
  PLACES,
  type Step,
  treeFolder,
} from '#core/changes';
import { keptBy, type StoreView, type ToldReference } from '#core/contents';
import { type ContentKey, keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { coveredVanilla, type FetchItem, whatToFetch } from '#core/fetch';
import { releaseFileKey } from '#core/mods';
import { type BuildLabel, ownKind } from '#core/builds';
import { type FoundFile, identifyDepots, likeliestBuild } from '#core/survey';
import { isBelow } from '#core/paths';
import { freeBytes, storeOf, type StoreReader } from '~/places';
import { getInstall, getPastSurvey, type Install } from '~/store';
import {
  addressesOf,
  contentsOf,
  foundFiles,
  type InstallContext,
  installContext,
  isFresh,
  treeOfTarget,
} from './install-context';
import { forgetStored, storedOf } from './stored';
import type { ChangeDetails, KeepOffer, KeepPlan, KeptOfChange, OutsideChange } from './views';

/* What lies on the drive of an install, what its changes did, and what a build takes to be kept. */

/** Undefined where the folder has no store, or it cannot be asked now. @throws Failure `changes/*`, `folder/*`, `served/*` */
export const storeOfInstall = async (installId: string): Promise<StoreView | undefined> =>
  (await storeOf(await getInstall(installId)))?.view();

/** The changes of a folder, newest first, without what they keep; none where it has no store, or it cannot be asked now. */
export const changesOfInstall = async (installId: string): Promise<readonly HistoryEntry[]> =>
  (await (await storeOf(await getInstall(installId)))?.changes()) ?? [];

/** The reasons for which contents are kept; undefined where the folder has no store, or it cannot be asked now. */
export const keptContents = async (installId: string): Promise<readonly ToldReference[] | undefined> =>
  (await storeOf(await getInstall(installId)))?.kept();

/** Says that a job has put something into the store that it goes on to plan with. */
export async function storeChanged(): Promise<void> {
  forgetStored();
}

const gameFile = (path: string): string => path.replace(/^trees\/[^/]+\//, '');

/** What a step did to a file that others see, undefined where it only got something ready. */
function actOf(step: Step): ChangeDetails['files'][number] | undefined {
  switch (step.do) {
    case 'place':
      return { path: gameFile(step.to), did: step.before === null ? 'added' : 'replaced', size: keySize(step.key) };
    case 'take':
      return { path: gameFile(step.path), did: 'removed', size: keySize(step.key) };
    case 'move':
      return { path: gameFile(step.to), did: 'moved', size: keySize(step.key) };
    case 'flag':
      return { path: gameFile(step.path), did: step.readOnly ? 'locked' : 'unlocked', size: undefined };
    case 'copy':
    case 'write':
    case 'exchange':
    case 'leave':
      return undefined;
  }
}

/** Of a swap the files that differ between the two folders. */
function swapped({ set }: Journalled): ChangeDetails['files'] {
  const exchange = set.steps.find((step) => step.do === 'exchange');
  if (!exchange) return [];
  const below = `trees/${exchange.to}/`;
  const after = new Map(
    set.steps.flatMap((step) =>
      (step.do === 'copy' || step.do === 'write') && step.to.startsWith(below)
        ? [[step.to.slice(below.length), step.key] as const]
        : [],
    ),
  );
  const before = new Map((exchange.leaves ?? []).map(([path, key]) => [path, key]));
  const come = [...after].flatMap(([path, key]): ChangeDetails['files'][number][] =>
    before.get(path) === key ? [] : [{ path, did: before.has(path) ? 'replaced' : 'added', size: keySize(key) }],
  );
  const gone = [...before].filter(([path]) => !after.has(path));
  return [...come, ...gone.map(([path, key]) => ({ path, did: 'removed' as const, size: keySize(key) }))];
}

/**
 * What a change did file by file; undefined for one of which only the summary is left.
 * @throws Failure `changes/*`, `folder/*`, `served/*`
 */
export async function changeDetails(installId: string, set: string): Promise<ChangeDetails | undefined> {
  const store = await storeOf(await getInstall(installId));
  const change = await store?.journal(set);
  if (!change) return undefined;
  const files = [...swapped(change), ...change.set.steps.flatMap((step) => actOf(step) ?? [])];
  return { files: files.toSorted((a, b) => (a.path < b.path ? -1 : 1)) };
}

/** Contents that lie elsewhere on the drive than with a change: in the game's folder, or kept for another reason. */
async function elsewhere(
  here: InstallContext,
  store: StoreReader,
  set: string | undefined,
): Promise<ReadonlySet<ContentKey>> {
  // Of a folder that has changed since it was read nobody knows.
  const inGame = isFresh(here) ? here.found.map(({ key }) => key) : [];
  return new Set([...inGame, ...(await store.sources(set)).keys()]);
}

/**
 * Of some contents those that lie elsewhere on the drive than with a change, and of the others those of which a source tells.
 * @param set undefined where they are with none
 * @throws Failure as {@link changeDetails}
 */
export async function elsewhereOf(
  installId: string,
  set: string | undefined,
  keys: readonly ContentKey[],
): Promise<{ readonly there: readonly ContentKey[]; readonly again: KeptOfChange['again'] }> {
  const here = await installContext(installId);
  const store = await storeOf(here.install);
  const onDrive = store ? await elsewhere(here, store, set) : new Set<ContentKey>();
  const addresses = allAddresses(here);
  return {
    there: keys.filter((key) => onDrive.has(key)),
    again: [...new Set(keys)].flatMap((key) => {
      const href = onDrive.has(key) ? undefined : addresses.get(key);
      return href === undefined ? [] : [[key, href] as const];
    }),
  };
}

/** Where a file of the store that nothing refers to was in the game's folder, as far as its place tells. */
const pathOfUnclaimed = (path: string): string => (isBelow(path, PLACES.trees) ? gameFile(path) : path);

/** Files of the store that nothing refers to and that are named before they go; undefined where the store cannot be asked now. */
export async function whatIsUnclaimed(installId: string): Promise<KeptOfChange | undefined> {
  const { index, install } = await installContext(installId);
  const view = await storeOfInstall(installId);
  if (!view) return undefined;
  const { rules } = index.game;
  return {
    again: [],
    alone: view.unclaimed.flatMap(([at, size, modified]): KeptOfChange['alone'][number][] => {
      const path = pathOfUnclaimed(at);
      if (size === 0 || path === rules.loadOrder || isRecord(install, path)) return [];
      return [{ path, at, key: undefined, size, modified, kind: ownKind(rules, path) ?? 'content' }];
    }),
    named: view.unclaimed,
  };
}

/** Whether a file is the storefront's record, outside the game's folder: its values go back by themselves. */
const isRecord = ({ record }: Install, path: string): boolean =>
  path.startsWith(`${PLACES.beside}/record/`) || (record?.kind === 'disk' && path === record.path);

/** Contents that a source has files of, of the game and of mods, with an address of each. */
function allAddresses(here: InstallContext): Map<ContentKey, string> {
  const addresses = addressesOf(here);
  for (const { releases } of here.catalogue.mods) {
    for (const file of releases.flatMap(({ files }) => files))
      if (file.href !== '') addresses.set(releaseFileKey(file), file.href);
  }
  return addresses;
}

/** The file of the game that a kept file was, or would be. */
function gamePathOf({ set }: Journalled, path: string): string {
  if (isBelow(path, PLACES.trees)) return gameFile(path);
  const i = set.steps.findIndex((step, number) =>
    step.do === 'place' ? step.from === path || keptPath(set.id, number) === path : keptPath(set.id, number) === path,
  );
  const step = set.steps[i];
  return step?.do === 'place' ? gameFile(step.to) : step?.do === 'take' ? gameFile(step.path) : path;
}

/**
 * What a change keeps that lies nowhere else on the drive, as far as is known without reading it: what a source tells of, and
 * what is nobody's who is known; undefined where it keeps nothing.
 * @throws Failure as {@link changeDetails}
 */
export async function whatIsKept(installId: string, set: string): Promise<KeptOfChange | undefined> {
  const here = await installContext(installId);
  const store = await storeOf(here.install);
  const change = await store?.journal(set);
  if (!store || !change) return undefined;
  const { rules } = here.index.game;
  const current = await store.current();
  const [there, addresses, aside] = [await elsewhere(here, store, set), allAddresses(here), asideOf(change, current)];
  const files = aside ? await store.list(treeFolder(aside.tree)) : [];
  const others = new Map(aside?.counted ? othersIn(aside, files).map((file) => [file.path, file]) : []);
  const again = new Map<ContentKey, string>();
  const alone: KeptOfChange['alone'][number][] = [];
  const tell = (at: string, key: ContentKey | undefined, size: number, modified: number | null): void => {
    const path = gamePathOf(change, at);
    if (size === 0 || path === rules.loadOrder || isRecord(here.install, path)) return;
    alone.push({ ...{ path, at, key, size, modified }, kind: ownKind(rules, path) ?? 'content' });
  };
  for (const { path, key } of keptBy(change, current)) {
    if (others.has(path) || there.has(key)) continue;
    const address = addresses.get(key);
    if (address !== undefined) again.set(key, address);
    else tell(path, key, keySize(key), null);
  }
  for (const file of others.values()) {
    const known = aside?.known.get(file.path);
    const key = isAsRead(file, known) ? known?.key : undefined;
    const address = key && addresses.get(key);
    if (key !== undefined && there.has(key)) continue;
    if (address === undefined) tell(file.path, key, file.size, file.modified);
    else again.set(key!, address);
  }
  return {
    again: [...again],
    alone: alone.toSorted((a, b) => (a.path < b.path ? -1 : 1)),
    named: [...others.values()].map(({ path, size, modified }) => [path, size, modified]),
  };
}

/** Files of the game that change sets have touched since a time. */
async function touchedSince(install: Install, time: number): Promise<Set<string>> {
  const store = await storeOf(install);
  const since = ((await store?.changes()) ?? []).filter(({ begunAt }) => begunAt !== undefined && begunAt >= time);
  const sets = await Promise.all(since.map(({ id }) => store!.journal(id)));
  return new Set(sets.flatMap((one) => one?.set.steps.flatMap((step) => actOf(step)?.path ?? []) ?? []));
}

/**
 * What others have changed in an install's folder since an earlier survey of the same tree, the player's own files aside,
 * and those that Regressum has changed itself meanwhile; undefined where they have changed nothing.
 */
export async function outsideChange(installId: string, before: number): Promise<OutsideChange | undefined> {
  const { install, index, survey, found, depots, trees } = await installContext(installId);
  const earlier = await getPastSurvey(installId, before);
  if (!survey || earlier?.tree !== survey.tree || earlier.at === survey.at) return undefined;
  const ours = await touchedSince(install, earlier.at);
  const isOwn = (path: string): boolean => ours.has(path) || ownKind(index.game.rules, path) !== undefined;
  const was = foundFiles(earlier);
  const keyAt = new Map(was.map(({ path, key }) => [path, key]));
  const counts = { replaced: 0, added: 0, removed: 0 };
  for (const { path, key } of found) {
    if (keyAt.get(path) !== key && !isOwn(path)) counts[keyAt.has(path) ? 'replaced' : 'added'] += 1;
    keyAt.delete(path);
  }
  counts.removed = [...keyAt.keys()].filter((path) => !isOwn(path)).length;
  if (counts.replaced + counts.added + counts.removed === 0) return undefined;
  const buildOf = (files: readonly FoundFile[]): BuildLabel | undefined =>
    likeliestBuild(identifyDepots(depots, trees, files), trees.keys());
  return { ...counts, from: buildOf(was), to: buildOf(found), at: Math.max(survey.at, install.changedAt) };
}

/**
 * What it takes to keep a build whole: the contents of its depots, with those of the mods where it is the target, and where
 * each lies now.
 * @throws Failure `job/not-checked-out` while the build's manifests or a survey are missing
 */
export async function keepPlan(installId: string, build: BuildLabel): Promise<KeepPlan> {
  const here = await installContext(installId);
  const { install, index, found } = here;
  const { target } = install;
  const laid = await treeOfTarget(here, target?.build === build ? target : { build, releases: [] });
  if (!laid || found.length === 0) throw new Failure('job/not-checked-out', { what: 'manifests or survey' });
  const tree = [...laid, ...coveredVanilla(laid)].filter(({ owner }) => owner.kind !== 'written');
  const stored = await storedOf(install);
  const inGame = new Map(found.map(({ path, key }) => [key, `trees/${install.tree}/${path}`]));
  const sources = new Map<ContentKey, string>();
  const missing: FetchItem[] = [];
  for (const item of whatToFetch(tree, { contents: contentsOf(found), stored })) {
    const from = stored.get(item.key) ?? inGame.get(item.key);
    if (from === undefined) missing.push(item);
    else sources.set(item.key, from);
  }
  const sum = (keys: Iterable<ContentKey>): number => [...keys].reduce((all, key) => all + keySize(key), 0);
  const copied = [...sources].flatMap(([key, path]) => (isBelow(path, PLACES.contents) ? [] : [key]));
  return {
    ...{ game: index.game.id, build, sources, missing },
    bytes: sum(sources.keys()),
    added: sum(new Set([...copied, ...missing.map(({ key }) => key)])),
    free: await freeBytes(install),
  };
}

/**
 * What keeping a build whole would take now; undefined where it is kept already, where the person wants to hear no more of
 * it, or where the folder has no store.
 */
export async function keepOffer(installId: string, build: BuildLabel): Promise<KeepOffer | undefined> {
  const { install, trees, found } = await installContext(installId);
  const store = (install.notKept ?? []).includes(build) ? undefined : await storeOf(install);
  if (!store || !trees.has(build) || found.length === 0) return undefined;
  const { game, sources, missing, added, free } = await keepPlan(installId, build);
  const isKept = (await store.kept()).some(
    ({ reason, checkedAt, missing: gone }) =>
      reason.kind === 'build' &&
      reason.game === game &&
      reason.build === build &&
      gone === 0 &&
      checkedAt !== undefined,
  );
  if (isKept || missing.length > 0) return undefined;
  const toCopy = [...sources].filter(([, path]) => !isBelow(path, PLACES.contents));
  return { build, files: toCopy.length, bytes: added, free };
}
