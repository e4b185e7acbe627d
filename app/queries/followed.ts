import { failureToWire, isFailure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import { topFolder } from '#core/paths';
import { modById } from '#core/mods';
import { sourceAt } from '~/places';
import { platformSha256 } from '~/remote';
import { type Followed, type FollowedMod, getCatalogue, getInstall, type Install } from '~/store';
import type { FollowedFolder, FollowedView } from './views';

/* Folders elsewhere in which another program keeps mods up to date, held against what was decided about each mod. */

/** The files of each mod's folder, by its path below the folder that is followed. */
function foldersOf(files: readonly FolderEntry[], each: boolean): Map<string, readonly FolderEntry[]> {
  if (!each) return new Map([['', files]]);
  const folders = new Map<string, FolderEntry[]>();
  for (const file of files) {
    // What lies beside the mods' folders is the other program's own.
    if (!file.path.includes('/')) continue;
    const folder = topFolder(file.path);
    const own = folders.get(folder);
    if (own) own.push(file);
    else folders.set(folder, [file]);
  }
  return folders;
}

/** Names, sizes and times: whoever brings a file up to date changes one of them. */
const stateOf = (files: readonly FolderEntry[]): Promise<string> =>
  platformSha256(JSON.stringify(files.map(({ path, size, modified }) => [path, size, modified])));

function doesNow(
  decided: FollowedMod | undefined,
  state: string | undefined,
  pins: ReadonlyMap<string, string>,
): FollowedFolder['does'] {
  if (!decided) return 'new';
  if (state === undefined) return 'gone';
  if (decided.state === state) return decided.isPassed ? 'passed' : 'same';
  const isFrozen = decided.releases.length > 0 && decided.releases.every(([mod, version]) => pins.get(mod) === version);
  return isFrozen ? 'frozen' : 'changed';
}

async function lookAt(followed: Followed, { game, pins = [] }: Install): Promise<FollowedView> {
  const { name, title, each, mods } = followed;
  const about = { name, title, each };
  const catalogue = await getCatalogue(game);
  const pinned = new Map<string, string>(pins);
  const named = (decided: FollowedMod | undefined): FollowedFolder['releases'] =>
    (decided?.releases ?? []).map(([mod, version]) => ({ mod, name: modById(catalogue, mod)?.name ?? mod, version }));
  try {
    const source = await sourceAt(followed.at);
    const there = foldersOf(await source.reader.list(), each);
    const folders = await Promise.all(
      [...new Set([...there.keys(), ...mods.map(({ folder }) => folder)])].map(async (folder) => {
        const files = there.get(folder);
        const decided = mods.find((one) => one.folder === folder);
        const state = files && (await stateOf(files));
        return {
          ...{ folder, state: state ?? '', files: files?.length ?? 0, releases: named(decided) },
          bytes: (files ?? []).reduce((sum, { size }) => sum + size, 0),
          does: doesNow(decided, state, pinned),
        };
      }),
    );
    return { ...about, folders, failure: undefined };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return { ...about, folders: [], failure: failureToWire(error) };
  }
}

/** The folders that are followed for an install, each compared with what was decided: by names, sizes and times. */
export async function followed(installId: string): Promise<FollowedView[]> {
  const install = await getInstall(installId);
  return Promise.all((install.followed ?? []).map((one) => lookAt(one, install)));
}
