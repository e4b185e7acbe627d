import { Failure } from '#core/failure';
import { fileName } from '#core/paths';
import { besidePath } from '~/folders';
import { askFor, sourceAt } from '~/places';
import { type FollowedFolder, type FollowedView, query } from '~/queries';
import { broadcast, type Followed, type FollowedMod, getInstall, updateInstall } from '~/store';
import { newBesideName, pointedAt } from './elsewhere';
import type { FolderOffer } from './offers';
import type { FolderAsArchive } from '~/workers';

/* Folders elsewhere in which another program keeps mods up to date. */

/** A folder of a mod that another program keeps up to date, to be read as if it were an archive. */
export interface FolderToRead {
  readonly from: FolderAsArchive;
  /** What the install's disk calls it. */
  readonly onDisk: string;
  /** The folder that is followed, and the one in it. */
  readonly followed: string;
  readonly folder: string;
  /** The state that it was seen in before it was read. */
  readonly state: string;
  /** What was taken from it before. */
  readonly before: FollowedFolder['releases'];
}

/** Whether a mod's folder has something that nobody has decided about. */
export const isNews = ({ does }: Pick<FollowedFolder, 'does'>): boolean => does === 'new' || does === 'changed';

/** A mod's folder as a person knows it: by what has been taken from it, else by its name. */
export const followedName = ({ folder, releases }: FollowedFolder, title: string): string =>
  releases.length > 0 ? releases.map(({ name }) => name).join(', ') : folder || title;

async function updateFollowed(id: string, name: string, change: (now: Followed) => Followed): Promise<void> {
  await updateInstall(id, (now) => ({
    ...now,
    followed: (now.followed ?? []).map((one) => (one.name === name ? change(one) : one)),
  }));
  broadcast({ type: 'changed' });
}

/**
 * Follows a folder of mods from now on. Where nothing but folders lies in it, each of them is taken for a mod.
 * @throws Failure `folder/nested` for one in the game's folder, `folder/*`, `served/*` where it cannot be read; nothing is noted
 *   then
 */
export async function followFolder(id: string, offer: FolderOffer): Promise<void> {
  const at = await pointedAt(id, offer);
  const files = await (await sourceAt(at)).reader.list();
  const each = files.length > 0 && files.every(({ path }) => path.includes('/'));
  const one: Followed = { name: newBesideName(), title: fileName(offer.name), at, each, mods: [], waiting: [] };
  await updateInstall(id, (now) => ({ ...now, followed: [...(now.followed ?? []), one] }));
  await lookAtFollowed(id);
  broadcast({ type: 'changed' });
}

/** Follows a folder no more. What was taken from it stays on the shelf. */
export async function stopFollowing(id: string, name: string): Promise<void> {
  await updateInstall(id, (now) => ({ ...now, followed: (now.followed ?? []).filter((one) => one.name !== name) }));
  broadcast({ type: 'changed' });
}

/** Says whether each folder in one that is followed is a mod; what was decided about them counts no more. */
export async function followEach(id: string, name: string, each: boolean): Promise<void> {
  await updateFollowed(id, name, (now) => ({ ...now, each, mods: [] }));
  await lookAtFollowed(id);
}

/** Notes what was decided about mods' folders in the states that they were seen in: what was taken, or that nothing is to be. */
export async function decideFollowed(
  id: string,
  name: string,
  decided: readonly {
    readonly folder: string;
    readonly state: string;
    /** What has been taken; what was taken before stays, where it is left out. */
    readonly releases?: FollowedMod['releases'];
  }[],
): Promise<void> {
  await updateFollowed(id, name, (now) => {
    const mods = new Map(now.mods.map((mod) => [mod.folder, mod]));
    for (const { folder, state, releases } of decided) {
      const before = mods.get(folder)?.releases ?? [];
      mods.set(folder, releases ? { folder, state, releases } : { folder, state, releases: before, isPassed: true });
    }
    return { ...now, mods: [...mods.values()] };
  });
  await lookAtFollowed(id);
}

/** Asks the browser once more for a folder that was picked, and compares it where it may be read again. */
export async function allowFollowed(id: string, at: Extract<Followed['at'], { kind: 'picked' }>): Promise<void> {
  if (!(await askFor(at, 'read'))) return;
  await lookAtFollowed(id);
  broadcast({ type: 'changed' });
}

/** Gives up what was decided about a folder that is gone. */
export async function forgetGone(id: string, name: string, folder: string): Promise<void> {
  await updateFollowed(id, name, (now) => ({ ...now, mods: now.mods.filter((mod) => mod.folder !== folder) }));
}

/** Compares all folders that are followed with what was decided, and notes what waits. One that cannot be read is left as it was. */
export async function lookAtFollowed(id: string): Promise<void> {
  const { followed = [] } = await getInstall(id);
  if (followed.length === 0) return;
  const views = await query('followed', id);
  const waiting = new Map(
    views.flatMap(({ name, title, folders, failure }): [string, string[]][] =>
      failure ? [] : [[name, folders.filter(isNews).map((one) => followedName(one, title))]],
    ),
  );
  const isAsNoted = followed.every(
    (one) => JSON.stringify(waiting.get(one.name) ?? one.waiting) === JSON.stringify(one.waiting),
  );
  if (isAsNoted) return;
  await updateInstall(id, (now) => ({
    ...now,
    followed: (now.followed ?? []).map((one) => ({ ...one, waiting: waiting.get(one.name) ?? one.waiting })),
  }));
  broadcast({ type: 'changed' });
}

/**
 * Mods' folders to be read as archives are.
 * @throws Failure `folder/gone` where the folder is followed no more, `folder/no-permission`
 */
export async function foldersToRead(
  id: string,
  { name, title }: FollowedView,
  folders: readonly FollowedFolder[],
): Promise<FolderToRead[]> {
  const one = (await getInstall(id)).followed?.find((other) => other.name === name);
  if (!one) throw new Failure('folder/gone', { path: title });
  const place = (await sourceAt(one.at)).placeOf();
  return folders.map(({ folder, state, releases }) => ({
    ...{ followed: name, folder, state, before: releases },
    from: { place, root: folder, name: folder === '' ? title : `${title}/${folder}` },
    onDisk: besidePath(name, folder),
  }));
}
