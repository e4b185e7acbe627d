export { addressOfFrom, askedOf, FROM, fromPrefix, sourceAddress, type Trust } from './address';
export { type GameFile, gameFile, GameFileSchema, type OfferedSource } from './game-file';
export {
  buildsToBridge,
  bundleIndexPath,
  bundlePath,
  filesPath,
  leftOut,
  type MadeBundle,
  type MadeSource,
  makeSource,
  type NewBuild,
  type NewDepot,
  withBundles,
} from './make';
export { declareBuilds, movedBuild, withoutBuilds } from './declare';
export { depotIdOf, WHOLE_BUILD } from './depot-id';
export { addManifests, mergeCatalogues, mergeIndexes } from './merge';
export { placeCatalogue, placeIndex, type SourcePlace } from './place';
