export { type Act, ActSchema, carryOut, changesGame, changesShared } from './acts';
export { type ArrivalFolder, arrivals } from './arrivals';
export type { Pile } from './inventory';
export { MOST_MIRRORED, arrivingPath, contentName, contentNameOf, contentPath } from './names';
export { forgetInstall } from './keep';
export { makeReference, type Reference } from './references';
export {
  changesMade,
  contentSources,
  keptContents,
  readMirror,
  type StorePorts,
  storeView,
  type StoreView,
  type ToldChange,
  type ToldReference,
} from './store';
export { CHECK_AGAIN_MS, expired, type RetentionRules } from './retention';
export { keptBy } from './stored';
export { StoreViewSchema } from './wire';
