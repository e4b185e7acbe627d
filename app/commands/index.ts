export { bringInOffer, changeInstall, forgetInstall, handOverAgain } from './bring-in';
export { type HandedText, handTextOver, readHandedTexts } from './handed-texts';
export { holdInstall, importHoldSheet, letHoldGo, type SheetOutcome } from './hold';
export {
  bytesOf,
  canPick,
  dropped,
  droppedFolder,
  type FolderOffer,
  inputFolder,
  listFile,
  pickFolder,
} from './offers';
export { askStorefront, changeAFile } from './outside-hands';
export { forgetOwnMod, takeOverTable, takeOverWritten, wantMods, wantModsOfSheet } from './own-mods';
export { noteStandingSeen, noteVisit, type Visit } from './visits';
