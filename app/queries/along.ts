import { releaseFileKey } from '#core/mods';
import { isBelow } from '#core/paths';
import type { FoundFile } from '#core/survey';
import type { InstallContext } from './install-context';

/** Files in the mods' folder that no release of a known mod has: mods that nobody knows, most likely. */
export function unknownModFiles({ found, catalogue, index }: InstallContext): FoundFile[] {
  const { modsFolder, loadOrder: order } = index.game.rules;
  const releases = catalogue.mods.flatMap((mod) => mod.releases);
  const known = new Set(releases.flatMap(({ files }) => files.map(releaseFileKey)));
  if (modsFolder === undefined) return [];
  return found.filter(({ path, key }) => isBelow(path, modsFolder) && path !== order && !known.has(key));
}

/**
 * Files that come along although no target has them: those the person says, and without a word those in the mods' folder
 * that nobody knows, such as mods of no catalogue and mods' own settings.
 */
export function alongOf(here: InstallContext): ReadonlySet<string> {
  const said = new Map(here.install.along);
  const usual = new Set(unknownModFiles(here).map(({ path }) => path));
  return new Set(here.found.flatMap(({ path }) => ((said.get(path) ?? usual.has(path)) ? [path] : [])));
}
