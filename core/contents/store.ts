import { z } from 'zod';
import { type ContentKey, keySize } from '#core/digest';
import {
  asideOf,
  assertNamed,
  blockers,
  type ChangePorts,
  entryOf,
  type HistoryEntry,
  type Journalled,
  listJournals,
  type NamedFile,
  PLACES,
  readHistory,
  readJournal,
  recordAt,
  treeFolder,
  othersIn,
} from '#core/changes';
import { Failure, isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { type KeepsakeHead, readKeepsakes } from '#core/keepsakes';
import { isBelow } from '#core/paths';
import type { FolderEntry } from '#core/folders';
import { type Inventory, inventory, isOwnCopy, type Known, unclaimed } from './inventory';
import { readReferences, type Reference } from './references';
import { contentNameOf } from './names';
import { isOfOtherTree } from './of-other-tree';
import { type FilesThere, isThere, keptBy, storedContents } from './stored';

/* What of the store is told to whoever shows it or plans with it. */

export type StorePorts = Pick<ChangePorts, 'disk' | 'sha256' | 'encode' | 'decode'>;

/** Where that lies what a browser knows of the install. */
export const MIRROR = 'mirror.dat';

/** What a browser has left here of what it knew of the install; undefined where none has. @throws Failure `folder/*` */
export async function readMirror(ports: StorePorts): Promise<string | undefined> {
  const text = await recordAt(ports, MIRROR);
  return text === undefined ? undefined : parseJson(text, z.string(), MIRROR);
}

/** A change of an install's folder, with what stands on it. */
export interface ToldChange extends HistoryEntry {
  /** What it keeps, so that it can be taken back or made again. */
  readonly keeps: { readonly files: number; readonly bytes: number };
  /** Of the files that it has to keep in the store those that are not there any more, or of another size. */
  readonly lost: number;
  /** What of the folder that it keeps put aside is not as it was read before; null where it keeps none. */
  readonly aside: AsideNow | null;
  /** It belongs to a folder that is put aside by another change, and cannot be turned before that folder counts again. */
  readonly elsewhere: boolean;
  /** Changes that have to be taken back before it can be taken back or made again, newest first. */
  readonly after: readonly string[];
}

/** Files of a folder that is put aside. */
export interface AsideNow {
  /** All that lie there. */
  readonly files: number;
  /** Those that are a player's, or that somebody has changed since. */
  readonly others: number;
  /** Those that were read before and lie there no longer. */
  readonly gone: number;
}

/** A reason for which contents are kept, without their list. */
export interface ToldReference extends Pick<Reference, 'id' | 'at' | 'reason'> {
  readonly checkedAt?: number;
  readonly files: number;
  /** Of its contents those that are not there, as far as sizes tell. */
  readonly missing: number;
  readonly bytes: number;
}

export interface StoreView {
  /** Newest first. */
  readonly history: readonly ToldChange[];
  readonly inventory: Inventory;
  readonly references: readonly ToldReference[];
  /** Newest first. */
  readonly keepsakes: readonly KeepsakeHead[];
  /** Files that nothing refers to, and that are named before they go. */
  readonly unclaimed: readonly NamedFile[];
  /** Records of the store that cannot be read: while there are any, nothing is removed. */
  readonly unreadable: readonly string[];
}

interface Store extends Known {
  /** Paths of records that cannot be read. */
  readonly unreadable: readonly string[];
  readonly files: readonly FolderEntry[];
}

const listAll = async ({ disk }: StorePorts, places: readonly string[]): Promise<FolderEntry[]> =>
  (await Promise.all(places.map((place) => disk.list(place)))).flat();

/** Everything that lies on the disk, each file once. */
async function filesOf(ports: StorePorts, current: string): Promise<FolderEntry[]> {
  const files = await ports.disk.list();
  // Adapters may have some of the places elsewhere, and list those only where they are asked for.
  const places = [treeFolder(current), PLACES.arriving, PLACES.contents, PLACES.references];
  return [
    ...files,
    ...(await listAll(
      ports,
      places.filter((place) => !files.some(({ path }) => isBelow(path, place))),
    )),
  ];
}

function thereOf(files: readonly FolderEntry[]): FilesThere {
  const byPath = new Map<string, FolderEntry>();
  const contents = new Map<string, FolderEntry>();
  for (const entry of files) {
    if (isBelow(entry.path, PLACES.contents)) contents.set(contentNameOf(entry.path), entry);
    else byPath.set(entry.path, entry);
  }
  return { files: byPath, contents };
}

/** All sets whose journals can be read, and the ids of the others: one that is damaged, or newer, keeps nobody from the rest. */
async function readSets(ports: StorePorts): Promise<Pick<Known, 'sets' | 'unread'>> {
  const unread: string[] = [];
  const sets = await Promise.all(
    (await listJournals(ports)).map(async (id) => {
      try {
        return await readJournal(ports, id);
      } catch (error) {
        if (!isFailure(error)) throw error;
        unread.push(id);
        return undefined;
      }
    }),
  );
  return { sets: sets.filter((one) => one !== undefined), unread };
}

async function readStore(ports: StorePorts, current: string): Promise<Store> {
  const [{ sets, unread }, { references, unreadable }, files] = await Promise.all([
    readSets(ports),
    readReferences(ports),
    filesOf(ports, current),
  ]);
  const journals = unread.map((id) => `${PLACES.journal}/${id}`);
  return { current, sets, unread, references, unreadable: [...unreadable, ...journals], files };
}

/** @param piles of the disk, or only of the contents on it */
function tellReferences(
  references: readonly Reference[],
  { contents }: FilesThere,
  { piles }: Inventory,
): ToldReference[] {
  const bytesOf = new Map(
    piles.flatMap(({ purpose, bytes }) => (purpose.kind === 'reference' ? [[purpose.id, bytes] as const] : [])),
  );
  return references.map(({ id, at, reason, checkedAt, contents: wanted }) => ({
    ...{ id, at, reason, files: wanted.length, bytes: bytesOf.get(id) ?? 0 },
    ...(checkedAt !== undefined && { checkedAt }),
    missing: wanted.filter(([name, key]) => contents.get(name)?.size !== keySize(key)).length,
  }));
}

/** Of what a set keeps in folders of its own those files that are gone, or not as they were. */
function lostOf(one: Journalled, current: string, { files }: FilesThere): number {
  const { known = new Map<string, unknown>() } = asideOf(one, current) ?? {};
  return keptBy(one, current).filter((kept) => !known.has(kept.path) && !isThere(kept, files)).length;
}

/** What lies in the folder that a set keeps put aside. */
function asideNow(one: Journalled, current: string, files: readonly FolderEntry[]): AsideNow | null {
  const aside = asideOf(one, current);
  if (!aside?.counted) return null;
  const there = files.filter(({ path }) => isBelow(path, treeFolder(aside.tree)));
  const paths = new Set(there.map(({ path }) => path));
  const gone = [...aside.known.keys()].filter((path) => !paths.has(path)).length;
  return { files: there.length, others: othersIn(aside, there).length, gone };
}

const newestFirst = <Entry extends HistoryEntry>(history: readonly Entry[]): Entry[] =>
  history.toSorted((a, b) => (b.begunAt ?? b.at) - (a.begunAt ?? a.at));

/** Changes of which the journals are left, and those of which only that is left what they did. */
function madeAndPast(sets: readonly Journalled[], past: readonly HistoryEntry[]): HistoryEntry[] {
  const live = new Map(sets.map((one) => [one.set.id, entryOf(one)]));
  return [...live.values(), ...past.filter(({ id }) => !live.has(id))];
}

/**
 * The reasons for which contents are kept, as {@link storeView} has them, without a look at anything but contents.
 * @throws Failure `folder/*`
 */
export async function keptContents(ports: StorePorts): Promise<ToldReference[]> {
  const [{ references }, files] = await Promise.all([readReferences(ports), ports.disk.list(PLACES.contents)]);
  const known = { references, sets: [], unread: [], current: '' };
  return tellReferences(references, thereOf(files), inventory(files, known));
}

/**
 * The changes of an install's folder as {@link storeView} has them, newest first, without a look at what they keep.
 * @throws Failure `folder/*`
 */
export async function changesMade(ports: StorePorts): Promise<HistoryEntry[]> {
  const [{ sets }, past] = await Promise.all([readSets(ports), readHistory(ports)]);
  return newestFirst(madeAndPast(sets, past.entries));
}

/**
 * Reads what lies on the disk of an install, and why.
 * @param current the tree that is the game's folder, as far as is known: who only looks must not end an exchange
 * @throws Failure `folder/*`
 */
export async function storeView(ports: StorePorts, current: string): Promise<StoreView> {
  const store = await readStore(ports, current);
  const { sets, references, files } = store;
  const told = inventory(files, store);
  const after = blockers(sets);
  const keeps = new Map(
    told.piles.flatMap(({ purpose, ...sum }) => (purpose.kind === 'change' ? [[purpose.set, sum] as const] : [])),
  );
  const there = thereOf(files);
  const lost = new Map(sets.map((one) => [one.set.id, lostOf(one, current, there)]));
  const aside = new Map(sets.map((one) => [one.set.id, asideNow(one, current, files)]));
  const byId = new Map(sets.map((one) => [one.set.id, one]));
  const elsewhere = new Set(
    sets.flatMap((one) => {
      const before = (after.get(one.set.id) ?? []).flatMap((id) => byId.get(id) ?? []);
      return isOfOtherTree(one, before, current) ? [one.set.id] : [];
    }),
  );
  const nothing = { files: 0, bytes: 0 };
  const [past, own] = await Promise.all([readHistory(ports), readKeepsakes(ports)]);
  const history = madeAndPast(sets, past.entries).map((entry): ToldChange => ({
    ...entry,
    keeps: keeps.get(entry.id) ?? nothing,
    lost: lost.get(entry.id) ?? 0,
    after: after.get(entry.id) ?? [],
    aside: aside.get(entry.id) ?? null,
    elsewhere: elsewhere.has(entry.id),
  }));
  return {
    history: newestFirst(history),
    inventory: told,
    references: tellReferences(references, there, told),
    keepsakes: own.keepsakes,
    unclaimed: unclaimed(files, store).flatMap((file) =>
      isOwnCopy(file) ? [] : [[file.path, file.size, file.modified] as const],
    ),
    unreadable: [...store.unreadable, ...past.unreadable, ...own.unreadable],
  };
}

/**
 * Where contents are to be had besides the game's folder.
 * @param without a change that is not to be counted on
 * @throws Failure `changes/*`, `folder/*`
 */
export async function contentSources(
  ports: StorePorts,
  current: string,
  without?: string,
): Promise<Map<ContentKey, string>> {
  const [{ sets }, { references }] = await Promise.all([readSets(ports), readReferences(ports)]);
  const counted = sets.filter(({ set }) => set.id !== without);
  // The game's folder is the largest by far, and where a browser alone can read it, listing it takes long.
  const keeping = counted.flatMap((one) => keptBy(one, current).map(({ path }) => path.split('/', 2).join('/')));
  const files = await listAll(ports, [PLACES.contents, ...new Set(keeping)]);
  return storedContents(counted, references, current, thereOf(files));
}

/**
 * Removes what nothing refers to.
 * @param named files besides the store's own copies that may go
 * @throws Failure `changes/damaged` where a record cannot be read, `changes/not-named`: then nothing is removed
 */
export async function clearUnclaimed(ports: ChangePorts, named: readonly NamedFile[] = []): Promise<void> {
  const current = await ports.disk.current();
  const store = await readStore(ports, current);
  const [unreadable] = store.unreadable;
  if (unreadable !== undefined) throw new Failure('changes/damaged', { path: unreadable });
  const files = unclaimed(store.files, store);
  assertNamed(
    files.filter((file) => !isOwnCopy(file)),
    named,
  );
  for (const { path, size } of files) {
    if (ports.signal.aborted) throw new Failure('job/cancelled');
    await ports.disk.remove(path);
    ports.progress({ files: 1, bytes: size });
  }
}
