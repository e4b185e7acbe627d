export { backUpAll, type BackupOffer, canBackUp, type Going, lookIntoBackup, restoreBackup } from './backup';
export { bringInOffer, type NewFolder, changeInstall, forgetInstall, handOverAgain } from './bring-in';
export {
  type CarriedAll,
  carryAll,
  carryForward,
  compareFiles,
  decideCarried,
  keepVanillaOf,
  packCarried,
  patchOf,
  jsonPatchOf,
  findNearest,
  textsOf,
} from './carrying';
export { copyInstall, type Copying, type CopyTo, findAgain } from './copies';
export { openDemo } from './demo';
export {
  deleteAllKept,
  deleteKept,
  isPlain,
  lookAhead,
  lookAtLoss,
  type LossAhead,
  type PartingView,
  type TurnAhead,
  turnChanges,
} from './turning';
export { lookForDrift, takeDriftOver, takeNothingOver } from './drift';
export { bringDepotsOf } from './depots';
export {
  addAddress,
  addGameOf,
  askSourcesAgain,
  changeRules,
  duplicateGame,
  exportGame,
  type GameForm,
  importGame,
  forgetGame,
  handFiles,
  type HandedFile,
  pageOfImported,
  removeSource,
} from './games';
export { forgetElsewhere, noteSynced, pointAtElsewhere } from './elsewhere';
export { handSheetOver, lookIntoSheet, readHandedSheets, type SheetArchive, shelveOffered } from './sheet-archive';
export {
  type ArchiveOffer,
  bringArchive,
  decideOnCopies,
  handArchiveOver,
  lookIntoArchive,
  readHandedArchives,
} from './keepsakes';
export { type HandedText, handTextOver, readHandedTexts } from './handed-texts';
export { holdInstall, importHoldSheet, letHoldGo, type SheetOutcome, switchToBranch, takeSheet } from './hold';
export {
  bytesOf,
  canPick,
  dropped,
  droppedFolder,
  type FolderOffer,
  inputFolder,
  listFile,
  pickFolder,
  pickStore,
} from './offers';
export { askStorefront, changeAFile } from './outside-hands';
export { answerStart, beginNarrowing, endNarrowing, putAllBack, switchForStart, takeAnswersBack } from './narrowing';
export {
  type BenchWish,
  benchMods,
  layDownAll,
  lookForReleases,
  insistOn,
  offBench,
  pinMod,
  takeOut,
  takeSteps,
  undoSteps,
  weighMod,
} from './mending';
export { forgetOwnMod, takeOverList, takeOverTable, takeOverWritten, wantMods, wantModsOfSheet } from './own-mods';
export {
  allowFollowed,
  decideFollowed,
  followEach,
  followedName,
  type FolderToRead,
  followFolder,
  foldersToRead,
  forgetGone,
  isNews,
  stopFollowing,
} from './followed';
export { forgetSaid, forgetTried, noteSaid, noteTried } from './evidence';
export { declareBuilds, forgetRecorded, moveRecorded, recordedArchive } from './recording';
export {
  type BroughtProfile,
  changeProfile,
  copyProfileOf,
  forgetProfileOf,
  importProfile,
  makeProfile,
  profileText,
} from './profiles';
export { addOrderRule, dropOrderRule, setOrder, writeOrder } from './order';
export { forgetRecord, pointAtRecord } from './record';
export { mirrorOver, placeStore } from './store-place';
export {
  type ArchivesOffer,
  handModsOver,
  openArchives,
  putOnShelf,
  readHandedMods,
  type Settled,
  takeOffShelf,
  wantReleases,
  writeOnShelf,
} from './shelf';
export { noteLastStart, noteStart } from './starts';
export { noteStandingSeen, noteVisit, type Visit } from './visits';
