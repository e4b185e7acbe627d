import { type HistoryEntry, type Journalled, PLACES, type Step } from '#core/changes';
import { keptBy, type StoreView, type ToldReference } from '#core/contents';
import { type ContentKey, keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { coveredVanilla, type FetchItem, whatToFetch } from '#core/fetch';
import { type BuildLabel, ownKind } from '#core/builds';
import { type FoundFile, identifyDepots, likeliestBuild } from '#core/survey';
import { isBelow } from '#core/paths';
import { storeOf, type StoreReader } from '~/places';
import { getInstall, getPastSurvey, type Install } from '~/store';
import { contentsOf, foundFiles, installContext, treeOfTarget } from './install-context';
import { forgetStored, storedOf } from './stored';
import type { ChangeDetails, KeepOffer, KeepPlan, OutsideChange } from './views';

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
  const before = new Map(exchange.leaves ?? []);
  const come = [...after].flatMap(([path, key]): ChangeDetails['files'][number][] =>
    before.get(path) === key ? [] : [{ path, did: before.has(path) ? 'replaced' : 'added', size: keySize(key) }],
  );
  const gone = [...before].filter(([path]) => !after.has(path));
  return [...come, ...gone.map(([path, key]) => ({ path, did: 'removed' as const, size: keySize(key) }))];
}

/** What would have to be fetched if what a change keeps were gone. */
async function fetchedAgain(
  store: StoreReader,
  change: Journalled,
  found: ReadonlySet<ContentKey>,
): Promise<ContentKey[]> {
  const kept = new Set(keptBy(change, await store.current()).map(([, key]) => key));
  const elsewhere = await store.sources(change.set.id);
  return [...kept].filter((key) => !found.has(key) && !elsewhere.has(key));
}

/**
 * What a change did file by file, and what letting it go would cost; undefined for one of which only the summary is left.
 * @throws Failure `changes/*`, `folder/*`, `served/*`
 */
export async function changeDetails(installId: string, set: string): Promise<ChangeDetails | undefined> {
  const here = await installContext(installId);
  const store = await storeOf(here.install);
  const change = await store?.journal(set);
  if (!store || !change) return undefined;
  const files = [...swapped(change), ...change.set.steps.flatMap((step) => actOf(step) ?? [])];
  const again = await fetchedAgain(store, change, new Set(here.found.map(({ key }) => key)));
  return {
    files: files.toSorted((a, b) => (a.path < b.path ? -1 : 1)),
    again: { files: again.length, bytes: again.reduce((sum, key) => sum + keySize(key), 0) },
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
  const bytes = [...sources.keys()].reduce((sum, key) => sum + keySize(key), 0);
  return { game: index.game.id, build, sources, bytes, missing };
}

/**
 * What keeping a build whole would take now; undefined where it is kept already, where the person wants to hear no more of
 * it, or where the folder has no store.
 */
export async function keepOffer(installId: string, build: BuildLabel): Promise<KeepOffer | undefined> {
  const { install, trees, found } = await installContext(installId);
  const store = (install.notKept ?? []).includes(build) ? undefined : await storeOf(install);
  if (!store || !trees.has(build) || found.length === 0) return undefined;
  const { game, sources, missing } = await keepPlan(installId, build);
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
  const bytes = toCopy.reduce((sum, [key]) => sum + keySize(key), 0);
  return { build, files: toCopy.length, bytes, free: await store.free() };
}
