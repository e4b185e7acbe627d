export { type Changes, changesOf, keeping, onOwnDisk, type Runner, type StoreAct } from './changes-of';
export { aroundFlags } from './flags';
export { ownSteps } from './own-steps';
export { changeSet, editSteps, inPlaceSteps, isInPlace, layDownSteps, madeTree, planOfPart } from './plans';
export {
  holdMeans,
  type MeansNow,
  recordBranch,
  type RecordOf,
  recordOf,
  recordSettlement,
  recordSteps,
  recordValue,
  withBranch,
  withBuild,
  withUpdates,
} from './install-record';
export { coveredBy, fetchedFor, forgetContents } from './forget-contents';
export { mirrorInstall, type MirrorState, mirrorState, takeFromMirror } from './mirror';
