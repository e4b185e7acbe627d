export { type BuildColumn, foldBuilds } from './fold';
export { buildOfSave, SAVE_HEAD, tellsBuild } from './save-build';
export { eachOnce } from './each-once';
export { compareLabels } from './labels';
export { moveBuild, orderBuilds } from './order';
export { fetchLine } from './fetch-line';
export { type CauseRule, LOG_CAUSES, type LogCause, type LogRule, LogRuleSchema } from './log-rule';
export { isPartOf, isPreset, ownKind, ownRule } from './own';
export { RECORD_FORMS, type RecordRule, RecordRuleSchema, type ValueRule } from './record-rule';
export { type VersionRule, VersionRuleSchema } from './version-rule';
export { type GameRules, GameRulesSchema, OWN_KINDS, type OwnKind } from './rules';
export { addOnRefused, buildOrder, countingDepots, headBuild, leastOwnership, newestBuild } from './ownership';
export {
  asBuild,
  asDepot,
  asMod,
  DepotIndexSchema,
  GameIdSchema,
  GameSchema,
  OwnershipSchema,
  BuildLabelSchema,
  DepotIdSchema,
  ModIdSchema,
  MOST_BUNDLES,
} from './schema';
export type { Build, BuildLabel, Depot, DepotId, DepotIndex, Game, ModId, Ownership } from './schema';
