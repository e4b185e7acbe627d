import { fitsGlob, isBelow, isGlob } from '#core/paths';
import type { GameRules, OwnKind } from './rules';

/** Whether a path is that of a rule, lies in it, or fits it. */
export const isPartOf = (path: string, rule: string): boolean =>
  isGlob(rule) ? fitsGlob(path, rule) : path === rule || isBelow(path, rule);

/** What a file of the player's is, by where the game keeps such files; undefined for one that is not the player's. */
export function ownKind({ own, record, log, loaderSwitch }: GameRules, path: string): OwnKind | undefined {
  // A storefront's record, or a log, in the game's folder is no part of the game, and never left behind.
  // So is a file in which a loader's switch stands: it is the player's as soon as it is set.
  if (path === record?.file || path === log?.file || path === loaderSwitch?.file) return 'settings';
  return own.find(({ folder }) => isPartOf(path, folder))?.kind;
}
