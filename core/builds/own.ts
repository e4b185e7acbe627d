import { fitsGlob, isBelow, isGlob } from '#core/paths';
import type { GameRules, OwnKind } from './rules';

/** Whether a path is that of a rule, lies in it, or fits it. */
export const isPartOf = (path: string, rule: string): boolean =>
  isGlob(rule) ? fitsGlob(path, rule) : path === rule || isBelow(path, rule);

type OwnRule = GameRules['own'][number];

/** How much of a rule says where it is: the parts before the first that has a wildcard. */
function fixedParts({ folder }: OwnRule): number {
  const parts = folder.split('/');
  const wild = parts.findIndex(isGlob);
  return wild < 0 ? parts.length + 1 : wild;
}

/** The rule that a file of the player's comes under: of several the one that says most closely where it is. */
export function ownRule({ own }: Pick<GameRules, 'own'>, path: string): OwnRule | undefined {
  let best: OwnRule | undefined;
  for (const rule of own) {
    if (isPartOf(path, rule.folder) && (!best || fixedParts(rule) > fixedParts(best))) best = rule;
  }
  return best;
}

/** Whether a file is a setting of a mod's that a person may have changed: what lies there counts, whoever brought it. */
export const isPreset = (rules: Pick<GameRules, 'own'>, path: string): boolean =>
  ownRule(rules, path)?.kind === 'presets';

/** What a file of the player's is, by where the game keeps such files; undefined for one that is not the player's. */
export function ownKind(rules: GameRules, path: string): OwnKind | undefined {
  const { record, log, loaderSwitch } = rules;
  // A storefront's record, or a log, in the game's folder is no part of the game, and never left behind.
  // So is a file in which a loader's switch stands: it is the player's as soon as it is set.
  if (path === record?.file || path === log?.file || path === loaderSwitch?.file) return 'settings';
  return ownRule(rules, path)?.kind;
}
