import { ownKind } from '#core/builds';
import { entryOf, type HistoryEntry, type Leaves } from '#core/changes';
import type { ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import { releaseFileKey } from '#core/mods';
import { storeOf } from '~/places';
import type { Install } from '~/store';
import { type InstallContext, installContext } from './install-context';
import { keepLast } from './keep-last';

/* What is known before a change set is turned: of the folder that it puts aside, and of sets that came to no end. */

/** Contents that a build or a release is known to have: whatever else lies in a folder may be the player's alone. */
const keptKnown = keepLast(
  (trees: InstallContext['trees'], catalogue: InstallContext['catalogue']): ReadonlySet<ContentKey> => {
    const ofMods = catalogue.mods.flatMap(({ releases }) => releases.flatMap(({ files }) => files.map(releaseFileKey)));
    return new Set([...[...trees.values()].flatMap((tree) => tree.map(({ key }) => key)), ...ofMods]);
  },
);

/** What lies in the game's folder as it was read last; none where it never was. For a change that puts it aside. */
export async function leavesOf(installId: string): Promise<Leaves> {
  const { install, survey, index, trees, catalogue } = await installContext(installId);
  if (!survey) return [];
  const { rules } = index.game;
  const known = keptKnown(trees, catalogue);
  // Of a file that was given another time the disk tells its own.
  const told = new Set(install.toldTimes?.times.map(([path]) => path));
  return survey.paths.map((path, i) => {
    const [key, time] = [survey.keys[i]!, survey.modified[i]!];
    // The list of mods is written by every plan anew.
    const isOwn = path !== rules.loadOrder && (ownKind(rules, path) !== undefined || !known.has(key));
    return [path, key, told.has(path) || Number.isNaN(time) ? null : time, isOwn];
  });
}

/** Changes of a folder that are between two states, each with what it does, where this version can read it. */
export async function unfinishedOf(
  install: Install,
  open: readonly string[],
): Promise<readonly { readonly id: string; readonly entry: HistoryEntry | undefined }[]> {
  if (open.length === 0) return [];
  const store = await storeOf(install);
  return Promise.all(
    open.map(async (id) => {
      const journal = await store?.journal(id).catch((error: unknown) => {
        if (!isFailure(error)) throw error;
        return undefined;
      });
      return { id, entry: journal && entryOf(journal) };
    }),
  );
}
