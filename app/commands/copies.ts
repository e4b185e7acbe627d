import { Failure } from '#core/failure';
import { jobs } from '~/jobs';
import { sourceAt } from '~/places';
import {
  addInstall,
  addTrial,
  broadcast,
  getInstall,
  type Install,
  type InstallPlace,
  listInstalls,
  listProfiles,
  listTrials,
  putProfile,
  updateInstall,
} from '~/store';
import { FIRST_TREE, newInstallId } from './bring-in';
import type { FolderOffer } from './offers';

/* Several folders of a game: copied, moved, found again where they lie now. */

/** Where a copy is made: on the browser's own disk, or in an empty folder. */
export type CopyTo = 'browser-disk' | FolderOffer;

/** @throws Failure `folder/gone` for what can only be looked at */
function placeOf(to: CopyTo): Extract<InstallPlace, { kind: 'browser-disk' | 'picked' | 'served' }> {
  if (to === 'browser-disk') return { kind: 'browser-disk' };
  switch (to.kind) {
    case 'picked':
      return { kind: 'picked', handle: to.handle };
    case 'served':
      return { kind: 'served', root: to.root, folder: to.folder };
    case 'handed':
    case 'list':
      throw new Failure('folder/gone');
  }
}

/** Whether two places are one folder, as far as it can be told. */
async function isSamePlace(a: InstallPlace, b: InstallPlace): Promise<boolean> {
  if (a.kind === 'picked' && b.kind === 'picked') return a.handle.isSameEntry(b.handle);
  return a.kind === 'served' && b.kind === 'served' && a.root === b.root && a.folder === b.folder;
}

/** @throws Failure `source/exists` where a folder is in the list already, but for the install that is named */
async function assertNew(place: InstallPlace, but?: string): Promise<void> {
  for (const { id, title, place: other } of await listInstalls())
    if (id !== but && (await isSamePlace(place, other))) throw new Failure('source/exists', { found: title });
}

/** What a copy is made with. */
export interface Copying {
  readonly title: string;
  readonly to: CopyTo;
  /** Whether saves, settings and own content come along. */
  readonly withOwn: boolean;
  /** Whether the files of the first are deleted afterwards. */
  readonly moves: boolean;
}

/**
 * Copies a folder with what is decided about it, its profiles and the starts of its game. Folders outside the game's are the
 * same for both. What only a storefront knows of, such as its record, stays with the first.
 * @returns the copy's id
 * @throws Failure `folder/gone`, `source/exists`, `folder/*`; nothing is added then
 */
export async function copyInstall(of: Install, { title, to, withOwn, moves }: Copying): Promise<string> {
  const place = placeOf(to);
  await assertNew(place);
  // One that cannot be read is refused before there is an install of it.
  if (place.kind !== 'browser-disk') await (await sourceAt(place)).reader.list();
  const id = newInstallId();
  const { record: _, toldTimes: __, pools: ___, lastVisit: ____, backFrom: _____, ...rest } = of;
  const folder = to === 'browser-disk' ? title : to.name;
  await addInstall({ ...rest, id, title, folder, place, tree: FIRST_TREE, changedAt: Date.now(), arrived: true });
  for (const profile of await listProfiles(of.id)) await putProfile({ ...profile, install: id });
  for (const trial of await listTrials(of.id)) await addTrial({ ...trial, install: id });
  broadcast({ type: 'changed' });
  await jobs.start('copy-folder', id, { from: of.id, withOwn, moves });
  return id;
}

/**
 * Notes that a folder lies elsewhere now, and takes a quick look at it there. What is known of it stays.
 * @throws Failure `folder/gone`, `source/exists`, `folder/*`; nothing is changed then
 */
export async function findAgain(install: Install, offer: FolderOffer): Promise<void> {
  const place = placeOf(offer);
  await assertNew(place, install.id);
  if (place.kind !== 'browser-disk') await (await sourceAt(place)).reader.list();
  const { place: before } = await getInstall(install.id);
  const store = before.kind === 'picked' && place.kind === 'picked' && before.store ? { store: before.store } : {};
  await updateInstall(install.id, (now) => ({
    ...now,
    ...{ place: { ...place, ...store }, folder: offer.name, changedAt: Date.now() },
  }));
  broadcast({ type: 'changed' });
  await jobs.start('look', install.id);
}
