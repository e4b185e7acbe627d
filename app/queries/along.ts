import { type GameRules, ownKind } from '#core/builds';
import { IN_GAME, type OwnFile } from '#core/keepsakes';
import { type Catalogue, releaseFileKey } from '#core/mods';
import { isBelow } from '#core/paths';
import type { FoundFile } from '#core/survey';
import type { Install } from '~/store';
import type { InstallContext } from './install-context';
import { keepLast } from './keep-last';

/** Files in the mods' folder that no release of a known mod has: mods that nobody knows, most likely. */
export const unknownModFiles = ({ found, catalogue, index }: InstallContext): readonly FoundFile[] =>
  keptUnknown(found, catalogue, index.game.rules);

const keptUnknown = keepLast((found: readonly FoundFile[], catalogue: Catalogue, rules: GameRules): FoundFile[] => {
  const { modsFolder, loadOrder: order } = rules;
  const releases = catalogue.mods.flatMap((mod) => mod.releases);
  const known = new Set(releases.flatMap(({ files }) => files.map(releaseFileKey)));
  if (modsFolder === undefined) return [];
  const isUnknown = ({ path, key }: FoundFile): boolean =>
    isBelow(path, modsFolder) && path !== order && !known.has(key);
  // What is the player's comes along anyway.
  return found.filter((file) => isUnknown(file) && ownKind(rules, file.path) === undefined);
});

/**
 * Files that come along although no target has them: those the person says, and without a word those in the mods' folder
 * that nobody knows, such as mods of no catalogue and mods' own settings. In a mod-free profile only the former.
 */
export const alongOf = (here: InstallContext): ReadonlySet<string> =>
  keptAlong(here.found, here.install.modFree ? NONE : unknownModFiles(here), JSON.stringify(here.install.along ?? []));

const NONE: readonly FoundFile[] = [];

const keptAlong = keepLast((found: readonly FoundFile[], unknown: readonly FoundFile[], along: string): Set<string> => {
  const said = new Map(JSON.parse(along) as NonNullable<Install['along']>);
  const usual = new Set(unknown.map(({ path }) => path));
  const paths = new Set<string>();
  for (const { path } of found) if (said.get(path) ?? usual.has(path)) paths.add(path);
  return paths;
});

/** Those of them that are no saves, settings or content by the game's rules, as files of the player's all the same. */
export const alongFiles = (here: InstallContext): OwnFile[] => {
  const along = alongOf(here);
  const { rules } = here.index.game;
  return here.found.flatMap(({ path, key }): OwnFile[] =>
    along.has(path) && ownKind(rules, path) === undefined
      ? [{ place: IN_GAME, path, kind: 'content', key, modified: null, along: true }]
      : [],
  );
};
