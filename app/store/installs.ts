import { Failure } from '#core/failure';
import { packed, unpacked } from './columns';
import { db } from './db';
import {
  type Install,
  InstallSchema,
  type StoredProfile,
  type StoredLook,
  StoredLookSchema,
  type StoredSurvey,
  StoredSurveySchema,
} from './records';
import { FIRST_TITLE, INSTALL_STORES, readWhole, storesOf, writeWhole } from './profiles';
import { allStored, soundOrNone, stored } from './stored';

/** All keys that begin with an install's id. */
const ofInstall = (id: string): IDBKeyRange => IDBKeyRange.bound([id], [id, []]);

async function lookedUp(id: string) {
  const stores = storesOf((await db()).transaction(INSTALL_STORES));
  return [stores, await stores.installs.get(id)] as const;
}

export async function getInstall(id: string): Promise<Install> {
  const install = await readWhole(...(await lookedUp(id)));
  if (!install) throw new Failure('store/failed', { what: 'install', id });
  return stored(InstallSchema, install, 'folder');
}

export async function listInstalls(): Promise<Install[]> {
  const { profiles, installs } = storesOf((await db()).transaction(INSTALL_STORES));
  const all = await Promise.all((await installs.getAll()).map((install) => readWhole({ profiles }, install)));
  return allStored(InstallSchema, all, 'folder');
}

/** The profile of an install that counts; the first one where nothing was ever decided. */
export async function getProfile({ id, profile }: Install): Promise<StoredProfile> {
  return (
    (await (await db()).get('profiles', [id, profile])) ?? { install: id, id: profile, title: FIRST_TITLE, weights: [] }
  );
}

/** Adds an install unless one with its id is there already; of two tabs that start at once, one wins. */
export async function addInstall(install: Install): Promise<void> {
  const transaction = (await db()).transaction(INSTALL_STORES, 'readwrite');
  const stores = storesOf(transaction);
  if (!(await stores.installs.getKey(install.id))) await writeWhole(stores, install);
  await transaction.done;
}

/** Changes an install in one transaction: nothing that another tab writes meanwhile is lost. */
export async function updateInstall(id: string, change: (install: Install) => Install): Promise<Install> {
  const transaction = (await db()).transaction(INSTALL_STORES, 'readwrite');
  const stores = storesOf(transaction);
  const install = await readWhole(stores, await stores.installs.get(id));
  if (!install) throw new Failure('store/failed', { what: 'install', id });
  const changed = change(stored(InstallSchema, install, 'folder'));
  await writeWhole(stores, changed);
  await transaction.done;
  return changed;
}

/** The surveys of the installs that were asked for last: they are large, and asked for at every step. */
const lastRead = new Map<string, { survey: StoredSurvey; newest: number }>();
const MOST_READ = 5;

/**
 * The latest survey of the install's tree, undefined where there is none of this tree. The same object until the install
 * has a newer one; telling that reads keys alone.
 */
export async function getSurvey(install: Install): Promise<StoredSurvey | undefined> {
  const transaction = (await db()).transaction(['surveys', 'pastSurveys']);
  const surveys = transaction.objectStore('surveys');
  const key: [string, string] = [install.id, install.tree];
  const [kept, past] = await Promise.all([
    surveys.getKey(key),
    transaction.objectStore('pastSurveys').getAllKeys(ofInstall(install.id)),
  ]);
  if (!kept) return undefined;
  const newest = past.at(-1)?.[1] ?? 0;
  const known = lastRead.get(install.id);
  lastRead.delete(install.id);
  const isSame = known?.survey.tree === install.tree && known.newest === newest;
  const survey = isSame ? known.survey : soundOrNone(StoredSurveySchema, unpacked(await surveys.get(key)), 'survey');
  // The one that was asked for last stands last.
  if (survey) lastRead.set(install.id, { survey, newest });
  if (lastRead.size > MOST_READ) lastRead.delete(lastRead.keys().next().value!);
  return survey;
}

const MAX_PAST_SURVEYS = 6;

/** Makes a survey the latest of its tree. The few before it stay, to compare with; the oldest is forgotten. */
export async function putSurvey(survey: StoredSurvey): Promise<void> {
  const transaction = (await db()).transaction(['surveys', 'pastSurveys'], 'readwrite');
  const past = transaction.objectStore('pastSurveys');
  const record = packed(survey);
  await transaction.objectStore('surveys').put(record);
  await past.put(record);
  const keys = await past.getAllKeys(ofInstall(survey.install));
  for (const key of keys.slice(0, Math.max(0, keys.length - MAX_PAST_SURVEYS))) await past.delete(key);
  await transaction.done;
  lastRead.delete(survey.install);
}

/** When the surveys that are kept began, newest first. */
export async function pastSurveys(install: string): Promise<number[]> {
  return (await (await db()).getAllKeys('pastSurveys', ofInstall(install))).map(([, at]) => at).toReversed();
}

export async function getPastSurvey(install: string, at: number): Promise<StoredSurvey | undefined> {
  return soundOrNone(StoredSurveySchema, unpacked(await (await db()).get('pastSurveys', [install, at])), 'survey');
}

export async function removeSurvey(install: string, tree: string): Promise<void> {
  await (await db()).delete('surveys', [install, tree]);
}

/** The latest quick look at the install's tree, undefined where there is none. */
export async function getLook(install: Install): Promise<StoredLook | undefined> {
  return soundOrNone(StoredLookSchema, await (await db()).get('looks', [install.id, install.tree]), 'quick look');
}

export async function putLook(look: StoredLook): Promise<void> {
  await (await db()).put('looks', look);
}

/** Forgets an install and all that is known of it, in one transaction. Its folder is not touched. */
export async function removeInstall(id: string): Promise<void> {
  const ofOne = ['installs', 'profiles', 'surveys', 'pastSurveys', 'looks', 'holds'] as const;
  const names = [...ofOne, 'readings', 'jobs', 'trials'] as const;
  const transaction = (await db()).transaction(names, 'readwrite');
  const store = <Name extends (typeof names)[number]>(name: Name) => transaction.objectStore(name);
  const [jobs, trials, readings] = await Promise.all([
    store('jobs').index('byInstall').getAllKeys(id),
    store('trials').index('byInstall').getAllKeys(id),
    store('readings').index('byInstall').getAllKeys(id),
  ]);
  await Promise.all([
    store('installs').delete(id),
    store('profiles').delete(ofInstall(id)),
    store('holds').delete(id),
    store('surveys').delete(ofInstall(id)),
    store('pastSurveys').delete(ofInstall(id)),
    store('looks').delete(ofInstall(id)),
    ...jobs.map((key) => store('jobs').delete(key)),
    ...trials.map((key) => store('trials').delete(key)),
    ...readings.map((key) => store('readings').delete(key)),
  ]);
  await transaction.done;
}
