export { broadcast, type JobCommand, listen, type ShownJob, type Speed } from './changes';
export { addHoldCheck, addTrial, getHold, listTrials, putHold, removeHold, removeTrial } from './holds';
export {
  addInstall,
  getInstall,
  getLook,
  getPastSurvey,
  getSurvey,
  listInstalls,
  pastSurveys,
  putLook,
  putSurvey,
  removeInstall,
  removeSurvey,
  updateInstall,
} from './installs';
export { getJob, listJobs, pruneJobs, putJob } from './jobs';
export { addLearned, listLearned, removeLearned } from './learned';
export { listOwnMods, putOwnMods, removeOwnMod } from './own-mods';
export { addReading, dropReadings, readingsOf } from './readings';
export {
  type HoldCheck,
  type HoldRecord,
  type Install,
  type InstallPlace,
  type JobKind,
  type JobProgress,
  type JobRecord,
  type JobState,
  type StoredLook,
  type StoredSession,
  type StoredSurvey,
  type StoredTrial,
  type Target,
  TargetSchema,
} from './records';
export {
  getCatalogue,
  getIndex,
  getManifest,
  getSession,
  knownManifests,
  putManifest,
  putServices,
  putSession,
  type Said,
  saidDigest,
} from './services';
