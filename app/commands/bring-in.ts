import type { Ownership } from '#core/builds';
import { Failure } from '#core/failure';
import type { HandedFiles } from '~/folders';
import { forgetContents, takeFromMirror } from '~/changes';
import { dropDisk } from '~/folders';
import { installLock, jobs } from '~/jobs';
import { query } from '~/queries';
import {
  FIRST_PROFILE,
  addInstall,
  broadcast,
  getInstall,
  type Install,
  type InstallPlace,
  putSurvey,
  removeInstall,
  updateInstall,
} from '~/store';
import { handOver } from '~/places';
import type { FolderOffer } from './offers';

export interface NewFolder {
  readonly game: string;
  readonly title: string;
  readonly folder: string;
  readonly ownership: Ownership;
  readonly weights: Install['weights'];
}

export const newInstallId = (): string => crypto.randomUUID().slice(0, 8);

/** What the first tree of an install is called. */
export const FIRST_TREE = 't1';

async function add(folder: NewFolder, place: InstallPlace): Promise<string> {
  const id = newInstallId();
  const changedAt = Date.now();
  await addInstall({ ...folder, id, place, tree: FIRST_TREE, profile: FIRST_PROFILE, changedAt, arrived: true });
  return id;
}

/** Brings in a folder that was picked or is served, and takes a quick look at it. @returns the install's id */
async function bringInLasting(
  folder: NewFolder,
  place: Extract<InstallPlace, { kind: 'picked' | 'served' }>,
): Promise<string> {
  const id = await add(folder, place);
  await takeFromMirror(id);
  await jobs.start('look', id);
  return id;
}

/** Brings in files that were handed over, and takes a quick look at them. @returns the install's id */
async function bringInHanded(folder: NewFolder, files: HandedFiles): Promise<string> {
  const id = await add(folder, { kind: 'handed' });
  handOver(id, files);
  await jobs.start('look', id);
  return id;
}

/**
 * Brings in a list of a folder's files in place of the folder, a checksum list or a Metalink document: it is the full
 * check already.
 * @throws Failure `list/*`, `metalink/*`, `digest/malformed`, `path/*` with the line; nothing is brought in then
 */
async function bringInList(folder: NewFolder, file: string, bytes: Uint8Array): Promise<string> {
  const id = await add(folder, { kind: 'list', file });
  try {
    await query('learn', id);
    await putSurvey({
      ...(await query('listed', id, bytes, file)),
      install: id,
      tree: FIRST_TREE,
      trusted: 0,
      unreadable: [],
    });
  } catch (error) {
    await removeInstall(id);
    throw error;
  }
  return id;
}

/** Brings in what a person offers, in the way that it was offered. @returns the install's id */
export function bringInOffer(offer: FolderOffer, folder: NewFolder): Promise<string> {
  switch (offer.kind) {
    case 'picked':
      return bringInLasting(folder, { kind: 'picked', handle: offer.handle });
    case 'served':
      return bringInLasting(folder, { kind: 'served', root: offer.root, folder: offer.folder });
    case 'handed':
      return bringInHanded(folder, offer.files);
    case 'list':
      return bringInList(folder, offer.name, offer.bytes);
  }
}

/** Gives files that were handed over before once more, since the page that knew them is gone. */
export async function handOverAgain(install: Install, files: HandedFiles): Promise<void> {
  handOver(install.id, files);
  await updateInstall(install.id, (now) => ({ ...now, changedAt: Date.now() }));
  await jobs.start('look', install.id);
}

/**
 * Changes how an install is called and what belongs in it, once the manifests that it needs then are here.
 * @throws Failure `service/*` where one of them cannot be had; nothing is changed then
 */
export async function changeInstall(id: string, change: Pick<Install, 'title' | 'ownership'>): Promise<void> {
  await query('learn', id, change.ownership);
  await updateInstall(id, (now) => ({ ...now, ...change }));
  broadcast({ type: 'changed' });
}

/**
 * Forgets an install.
 * @param withFiles also removes what lies of it on the browser disk (its files, its keepsakes), first of all, so that
 *   nothing is left that no list names. Folders elsewhere are never touched.
 * @throws Failure `job/busy` while a job works on it; nothing is forgotten then
 */
export async function forgetInstall(id: string, withFiles: boolean): Promise<void> {
  const install = await getInstall(id);
  await navigator.locks.request(installLock(id), { ifAvailable: true }, async (lock) => {
    if (!lock) throw new Failure('job/busy');
    // What was fetched for it serves nobody any more.
    await forgetContents(install, withFiles);
    if (withFiles) await dropDisk(id);
    await removeInstall(id);
  });
  broadcast({ type: 'changed' });
}
