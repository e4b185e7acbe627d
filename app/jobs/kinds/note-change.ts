import { type ChangeSet, type Direction, treeFolder } from '#core/changes';
import type { ContentKey } from '#core/digest';
import type { FolderEntry } from '#core/folders';
import { isBelow } from '#core/paths';
import { type Changes, isInPlace } from '~/changes';
import { treePath } from '~/folders';
import { toldTimesOf } from '~/places';
import type { JobContext } from '../job-context';
import { modListOf } from './mod-list';
import { loaderSwitchOf } from './loader-switch';
import { getInstall, getSurvey, type Install, putSurvey, type StoredSurvey, updateInstall } from '~/store';

/* Brings what the browser knows of an install to what lies on its disk after a change set was made or taken back. */

function surveyOf(
  install: string,
  tree: string,
  files: readonly FolderEntry[],
  keys: ReadonlyMap<string, ContentKey>,
  trusted: number,
): StoredSurvey {
  const below = treePath(tree).length + 1;
  return {
    ...{ install, tree, at: Date.now(), trusted, unreadable: [] },
    paths: files.map(({ path }) => path.slice(below)),
    sizes: Float64Array.from(files, ({ size }) => size),
    modified: Float64Array.from(files, ({ modified }) => modified),
    keys: files.map(({ path }) => keys.get(path)!),
  };
}

async function withList(survey: StoredSurvey, { disk }: Changes): Promise<StoredSurvey> {
  const install = await getInstall(survey.install);
  const before = await getSurvey(install);
  const [{ game }, root] = [install, treeFolder(survey.tree)];
  const [list, told] = await Promise.all([modListOf(disk, root, game, before), loaderSwitchOf(disk, root, game)]);
  return { ...survey, ...told, ...list };
}

/** The files of a tree with the times that they really have. */
async function listTold(install: Install, { disk }: Changes, tree: string): Promise<FolderEntry[]> {
  const told = toldTimesOf(install);
  const below = treePath(tree).length + 1;
  return (await disk.list(treeFolder(tree))).map((file) => ({
    ...file,
    modified: told(file.path.slice(below), file.modified),
  }));
}

/** What was laid down beside was read file by file: it needs no survey of its own. */
async function noteSurvey(install: string, changes: Changes, { steps }: ChangeSet): Promise<void> {
  const tree = await changes.disk.current();
  const keys = new Map(
    steps.flatMap((step) => (step.do === 'copy' || step.do === 'write' ? [[step.to, step.key] as const] : [])),
  );
  const files = await listTold(await getInstall(install), changes, tree);
  if (files.every(({ path }) => keys.has(path)))
    await putSurvey(await withList(surveyOf(install, tree, files, keys, 0), changes));
}

async function noteExchange(install: string, changes: Changes): Promise<void> {
  const tree = await changes.disk.current();
  await updateInstall(install, (now) => ({ ...now, tree }));
}

/** Where a set that went this way has put files of a tree, and with which bytes; null where it has taken one away. */
function touchedBy({ steps }: ChangeSet, way: Direction, tree: string): Map<string, ContentKey | null> {
  const touched = new Map<string, ContentKey | null>();
  for (const step of steps) {
    if (step.do === 'place') touched.set(step.to, way === 'on' ? step.key : step.before);
    if (step.do === 'take') touched.set(step.path, way === 'on' ? null : step.key);
    if (step.do === 'move') {
      touched.set(step.from, way === 'on' ? null : step.key);
      touched.set(step.to, way === 'on' ? step.key : null);
    }
  }
  return new Map([...touched].filter(([path]) => isBelow(path, treeFolder(tree))));
}

/**
 * Of what was changed in place, the set's own files have been read; the others count as they were surveyed where their
 * size and time still are the same. Where they are not, the folder wants another survey.
 */
async function noteInPlace(installId: string, changes: Changes, set: ChangeSet, way: Direction): Promise<void> {
  const install = await getInstall(installId);
  const { tree } = install;
  const old = await getSurvey(install);
  const touched = touchedBy(set, way, tree);
  const files = await listTold(install, changes, tree);
  const before = new Map(old?.paths.map((path, i) => [treePath(tree, path), i]));
  const keys = new Map<string, ContentKey>();
  for (const { path, size, modified } of files) {
    const own = touched.get(path);
    const i = before.get(path);
    if (own) keys.set(path, own);
    else if (own === undefined && i !== undefined && old!.sizes[i] === size && old!.modified[i] === modified)
      keys.set(path, old!.keys[i]!);
  }
  const isWhole = keys.size === files.length && [...touched].every(([path, key]) => (key === null) === !keys.has(path));
  const trusted = files.filter(({ path }) => !touched.has(path)).length;
  // What was never surveyed is known too where the set put all of it there.
  if (isWhole) await putSurvey(await withList(surveyOf(installId, tree, files, keys, trusted), changes));
  else await updateInstall(installId, (now) => ({ ...now, changedAt: Date.now() }));
}

/**
 * After a file of the game's folder was found to have other bytes than were read of it, whatever its size and time: it is read again,
 * and the rest counts as it did.
 * @param path on the disk
 */
export async function noteFile(context: JobContext, changes: Changes, path: string): Promise<void> {
  const install = await getInstall(context.install);
  const survey = await getSurvey(install);
  const i = survey?.paths.indexOf(path.slice(treePath(install.tree).length + 1)) ?? -1;
  if (!survey || i < 0) return;
  // Whatever is written behind this has another time than what is noted here.
  const entry = await changes.disk.stat(path);
  const [key] = await changes.keysOf(context, [path]);
  const told = toldTimesOf(install);
  const isThere = key && entry;
  const other = <T>(column: readonly T[], value: () => T): T[] =>
    isThere ? column.with(i, value()) : column.toSpliced(i, 1);
  await putSurvey({
    ...survey,
    paths: other(survey.paths, () => survey.paths[i]!),
    sizes: Float64Array.from(other([...survey.sizes], () => entry!.size)),
    modified: Float64Array.from(other([...survey.modified], () => told(survey.paths[i]!, entry!.modified))),
    keys: other(survey.keys, () => key!),
  });
}

/** After a lay-down was made, or made again. */
export async function noteChange(install: string, changes: Changes, id: string): Promise<void> {
  const journalled = await changes.read(id);
  if (!journalled?.way) return;
  const { set, way } = journalled;
  if (!isInPlace(set)) {
    if (way === 'on') await noteSurvey(install, changes, set);
    await noteExchange(install, changes);
  } else await noteInPlace(install, changes, set, way);
}
