export { type Backup, BACKUP_VERSION, BackupSchema, backupText, lasting, putBackup } from './backup';
export {
  broadcast,
  type BroughtOver,
  forgetBroughtOver,
  type JobCommand,
  lastBroughtOver,
  listen,
  type ShownJob,
  type Speed,
} from './changes';
export { addGame, getGame, listGames, RECORDED_SOURCE, removeGame, SERVICE_SOURCE, updateGame } from './games';
export { acceptDrift, addHoldCheck, addTrial, getHold, listTrials, putHold, removeHold, removeTrial } from './holds';
export {
  addInstall,
  getInstall,
  getLook,
  getPastSurvey,
  getProfile,
  getSurvey,
  listInstalls,
  pastSurveys,
  putLook,
  putSurvey,
  removeInstall,
  removeSurvey,
  updateInstall,
} from './installs';
export {
  countProfile,
  listProfiles,
  putProfile,
  removeProfile,
  takeOverInstall,
  updateProfile,
} from './profile-records';
export { bareOf, decidedOf, FIRST_TITLE, sharingOf } from './profiles';
export { getJob, listJobs, pruneJobs, putJob } from './jobs';
export { addLearned, listLearned, removeLearned } from './learned';
export { listOwnMods, putOwnMods, removeOwnMod } from './own-mods';
export { listShelved, noteShelved, putShelved, removeShelved } from './shelved';
export { rateLimit, setRateLimit } from './rate-limit';
export { addReading, dropReadings, readingsOf } from './readings';
export {
  type BroughtReport,
  type Carried,
  type Nearest,
  BroughtReportSchema,
  type FetchReport,
  FetchReportSchema,
  type Elsewhere,
  type Followed,
  type FollowedMod,
  FIRST_PROFILE,
  type GameRecord,
  GameRecordSchema,
  type GameSource,
  type HoldCheck,
  type Narrowing,
  type HoldRecord,
  HoldRecordSchema,
  type Install,
  type InstallPlace,
  InstallSchema,
  type JobKind,
  type JobProgress,
  type JobRecord,
  type JobState,
  type OwnMod,
  OwnModSchema,
  type Shelved,
  type Decided,
  DecidedSchema,
  FolderDecidedSchema,
  type StoredProfile,
  StoredProfileSchema,
  type StoredLook,
  type StoredSession,
  type StoredSurvey,
  type StoredTrial,
  type Target,
  HandleSchema,
  TargetSchema,
} from './records';
export {
  copyTold,
  getBundleIndex,
  getCatalogue,
  getOffered,
  saidCatalogues,
  getIndex,
  getManifest,
  getSession,
  knownBundleIndexes,
  knownManifests,
  putBundleIndex,
  putManifest,
  putSession,
  putTold,
  type Said,
  saidIndex,
  saidDigest,
  type Told,
} from './told';
