export { HOLD_SHEET_VERSION, HoldSheetSchema, parseHoldSheet, writeHoldSheet } from './sheet';
export type { HoldSheet } from './sheet';
export { drift } from './drift';
export { checkClaims, checkNames, checkRest, checkStatement, isOnlyLacking, restOfSheet } from './check';
export type { Mismatch } from './check';
export { looseMeans } from './means';
export { settingsFact, sheetFacts, unknownReleases } from './facts';
export type { SheetFacts, SheetSubject } from './facts';
export {
  type ArchivedFile,
  manifestInArchive,
  modFileInArchive,
  type OfferedRelease,
  SHEET_FILES,
  SHEET_TEXTS,
  type ShelfOffer,
  shelfOffer,
} from './archive';
export { type Accepted, type CausedDrift, type DriftCause, driftCauses, unaccepted } from './causes';
