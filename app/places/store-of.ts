import {
  changesMade,
  contentSources,
  keptContents,
  readMirror,
  type StorePorts,
  storeView,
  type StoreView,
  type ToldReference,
} from '#core/contents';
import { type Disk, type HistoryEntry, type Journalled, listOpen, readJournal } from '#core/changes';
import type { ContentKey } from '#core/digest';
import { type Keepsake, type KeepsakeList, readKeepsake, readKeepsakes } from '#core/keepsakes';
import { isFailure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import type { ServedState } from '#core/served';
import { INSTALL_DISK, installDisk, pickedDisk, type Place, servedStore, type ServedStore } from '~/folders';
import { platformSha256, servedToken } from '~/remote';
import type { Install } from '~/store';
import { canChange, canRead, stateToChange } from './can-change';
import { sourceOf } from './source';

/** Where a store lies, seen from the game's folder; `browser` on this browser's own disk. */
export type StoreLies = 'in-game' | 'apart' | 'browser';

/** What is known of the store of an install, to look at. */
export interface StoreReader {
  /** The tree that is the game's folder. */
  current(): Promise<string>;
  /** What lies on the disk, and why. @throws Failure `changes/*`, `folder/*`, `served/*` */
  view(): Promise<StoreView>;
  /** Files below a folder of the disk that is not the game's. @throws Failure `folder/*`, `served/*` */
  list(folder: string): Promise<readonly FolderEntry[]>;
  /** What {@link view} tells of changes, and of what is kept: neither wants the game's folder to be listed. */
  changes(): Promise<readonly HistoryEntry[]>;
  kept(): Promise<readonly ToldReference[]>;
  /** What a browser has left here of what it knew of the install; undefined where none has. */
  mirror(): Promise<string | undefined>;
  keepsakes(): Promise<KeepsakeList>;
  /** A keepsake with its files; undefined where there is none of that id. */
  keepsake(id: string): Promise<Keepsake | undefined>;
  /** Change sets that are between two states, whoever began them. */
  open(): Promise<readonly string[]>;
  /** Bytes free on the drive of the store, where it tells. */
  free(): Promise<number | undefined>;
  /** Where it lies: in the game's folder, which it goes with, or apart from it. */
  readonly lies: StoreLies;
  /** Changes with the store, where others than this browser may change it. */
  stamp(): Promise<string>;
  /**
   * Where contents are to be had besides the game's folder.
   * @param without a change that is not to be counted on
   * @throws Failure as {@link view}
   */
  sources(without?: string): Promise<Map<ContentKey, string>>;
  /** How far a change set has come; undefined where there is none. */
  journal(set: string): Promise<Journalled | undefined>;
}

export const text = {
  encode: (value: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(value),
  decode: (bytes: Uint8Array<ArrayBuffer>): string => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
};

function onDisk(disk: Disk, lies: StoreLies): StoreReader {
  const ports: StorePorts = { disk, sha256: platformSha256, ...text };
  return {
    lies,
    view: async () => storeView(ports, await disk.current()),
    sources: async (without) => contentSources(ports, await disk.current(), without),
    changes: () => changesMade(ports),
    kept: () => keptContents(ports),
    list: (folder) => disk.list(folder),
    current: () => disk.current(),
    open: () => listOpen(ports),
    journal: (set) => readJournal(ports, set),
    mirror: () => readMirror(ports),
    keepsakes: () => readKeepsakes(ports),
    keepsake: (id) => readKeepsake(ports, id),
    free: async () => (await disk.room())?.free,
    stamp: async () => '',
  };
}

/** A server lists a folder in no time: its view tells everything. Its state is the one that it told when it was asked for the store. */
const onServer = (store: ServedStore, { current, open, free, stamp, inGame }: ServedState): StoreReader => ({
  ...store,
  lies: inGame ? 'in-game' : 'apart',
  changes: async () => (await store.view()).history,
  kept: async () => (await store.view()).references,
  current: async () => current,
  open: async () => open,
  free: async () => free,
  stamp: async () => stamp,
});

/**
 * Where keepsakes of an install lie: in its store, or on the browser's own disk where the folder can only be looked at from
 * here.
 */
export const keeperOf = async (install: Install): Promise<StoreReader> =>
  (await storeOf(install)) ?? onBrowserDisk(install);

/** What this browser's own disk keeps for an install. */
export const onBrowserDisk = ({ id, tree }: Install): StoreReader => onDisk(installDisk(id, tree), 'browser');

/**
 * Where another disk reads the contents that the store of an install keeps; undefined where they lie on this browser's disk,
 * whose installs share them.
 */
export const contentsBeside = async ({ place }: Install): Promise<Place | undefined> =>
  place.kind === 'served' && (await canChange(place)) ? { ...place, token: servedToken(), contents: true } : undefined;

/** Bytes free where contents of an install are put down and kept; undefined where the place does not tell. */
export async function freeBytes(install: Install): Promise<number | undefined> {
  try {
    const store = await storeOf(install);
    return store ? await store.free() : (await (await sourceOf(install, install.tree)).reader.room())?.free;
  } catch (error) {
    if (isFailure(error)) return undefined;
    throw error;
  }
}

/** The store of an install; undefined where its folder has none, or it cannot be asked now. */
export async function storeOf({ id, place, tree }: Install): Promise<StoreReader | undefined> {
  switch (place.kind) {
    case 'browser-disk':
      return onDisk(installDisk(id, tree), 'browser');
    case 'picked':
      // To look at, the permission to read is enough.
      return (await canRead(place))
        ? onDisk(pickedDisk({ ...place, disk: INSTALL_DISK(id), tree }), place.store ? 'apart' : 'in-game')
        : undefined;
    case 'served': {
      const state = await stateToChange(place);
      return state && onServer(servedStore({ ...place, token: servedToken() }), state);
    }
    case 'handed':
    case 'list':
      return undefined;
  }
}
