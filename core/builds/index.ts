export { type BuildColumn, foldBuilds } from './fold';
export { buildOfSave, SAVE_HEAD, tellsBuild } from './save-build';
export { eachOnce } from './each-once';
export { compareLabels } from './labels';
export { moveBuild, orderBuilds } from './order';
export { ownKind } from './own';
export { addOnRefused, buildOrder, countingDepots, newestBuild } from './ownership';
export {
  asBuild,
  asDepot,
  asMod,
  DepotIndexSchema,
  OwnershipSchema,
  BuildLabelSchema,
  DepotIdSchema,
  ModIdSchema,
} from './schema';
export type { Build, BuildLabel, Depot, DepotId, DepotIndex, GameRules, ModId, OwnKind, Ownership } from './schema';
