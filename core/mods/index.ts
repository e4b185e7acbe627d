export { CatalogueSchema, ModSchema, OrderRuleSchema, WEIGHTS, WeightSchema } from './schema';
export type { Catalogue, Mod, OrderRule, Release, ReleaseFile, Requirement, Weight } from './schema';
export {
  inConflict,
  inRange,
  knownReleases,
  modById,
  needsOf,
  releaseAt,
  haveSameFiles,
  withoutWithdrawn,
  releaseOrder,
  rangeWords,
  sameNeed,
} from './releases';
export { presetOwners } from './presets';
export { recogniseMods, releaseFileKey } from './recognise';
export type { InstalledMod } from './recognise';
export { byPrograms, programMisfits, type ProgramMisfit, type Programs } from './programs';
export { loadOrder, movedTo, orderMods, statedRules, takenOver, winnerOf } from './load-order';
export type { BrokenRule, Contest, LoadOrder, OrderedPair, StatedRule } from './load-order';
