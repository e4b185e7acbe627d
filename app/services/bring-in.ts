import type { Ownership } from '#core/builds';
import { parseChecksumList } from '#core/lists';
import type { HandedFiles } from '~/folders';
import { browserDisk, INSTALL_DISK } from '~/folders';
import { jobs } from '~/jobs/job-center';
import { reckon } from '~/reckoning/client';
import { broadcast } from '~/store/changes';
import { addInstall, getInstall, putSurvey, removeInstall, updateInstall } from '~/store/installs';
import type { Install, InstallPlace } from '~/store/records';
import { handOver } from './handed';
import { decodeText } from './text-file';

export interface NewFolder {
  readonly title: string;
  readonly folder: string;
  readonly ownership: Ownership;
  readonly weights: Install['weights'];
}

const TREE = 't1';

async function add(folder: NewFolder, place: InstallPlace): Promise<string> {
  const id = crypto.randomUUID().slice(0, 8);
  const changedAt = Date.now();
  await addInstall({ ...folder, id, place, tree: TREE, nextTree: 1, changedAt, arrived: true });
  return id;
}

/** Brings in a folder that was picked or is served, and takes a quick look at it. @returns the install's id */
export async function bringInLasting(
  folder: NewFolder,
  place: Extract<InstallPlace, { kind: 'picked' | 'served' }>,
): Promise<string> {
  const id = await add(folder, place);
  await jobs.start('look', id);
  return id;
}

/** Brings in files that were handed over, and takes a quick look at them. @returns the install's id */
export async function bringInHanded(folder: NewFolder, files: HandedFiles): Promise<string> {
  const id = await add(folder, { kind: 'handed' });
  handOver(id, files);
  await jobs.start('look', id);
  return id;
}

/**
 * Brings in a checksum list in place of a folder: it is the full check already.
 * @throws Failure `list/*`, `digest/malformed`, `path/*` with the line; nothing is brought in then
 */
export async function bringInList(folder: NewFolder, file: string, bytes: Uint8Array): Promise<string> {
  const list = parseChecksumList(decodeText(bytes, file), file);
  const id = await add(folder, { kind: 'list', file });
  try {
    await reckon('learn', id);
    const found = await reckon('listed', id, list, file);
    await putSurvey({
      install: id,
      tree: TREE,
      at: Date.now(),
      paths: found.map(({ path }) => path),
      sizes: Float64Array.from(found, ({ size }) => size),
      keys: found.map(({ key }) => key),
      unreadable: [],
    });
  } catch (error) {
    await removeInstall(id);
    throw error;
  }
  return id;
}

/** Gives files that were handed over before once more, since the page that knew them is gone. */
export async function handOverAgain(install: Install, files: HandedFiles): Promise<void> {
  handOver(install.id, files);
  await updateInstall(install.id, (now) => ({ ...now, changedAt: Date.now() }));
  await jobs.start('look', install.id);
}

/**
 * Forgets an install.
 * @param withFiles also removes its files from the browser disk, first of all, so that nothing is left that no list
 *   names. Folders elsewhere are never touched.
 */
export async function forgetInstall(id: string, withFiles: boolean): Promise<void> {
  const { place } = await getInstall(id);
  if (withFiles && place.kind === 'browser-disk') await browserDisk(INSTALL_DISK(id)).remove('');
  await removeInstall(id);
  broadcast({ type: 'changed' });
}
