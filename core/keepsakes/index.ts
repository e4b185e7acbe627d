export { bagChecksums, bagFiles, bagName, BAG_PAYLOAD } from './bag';
export type { BackupInfo, BagEntry, BagInfo, KeepsakeInfo } from './bag';
export {
  headOf,
  IN_GAME,
  KEEPSAKE_TAG,
  type Keepsake,
  type KeepsakeHead,
  KeepsakeHeadSchema,
  type KeepsakeList,
  KeepsakeListSchema,
  keepsakeReference,
  KeepsakeSchema,
  KEEPSAKE_VERSION,
  type OwnFile,
  OwnFileSchema,
  putKeepsake,
  readKeepsake,
  readKeepsakes,
  removeKeepsake,
} from './keepsake';
export { isPutBack, isSameOwn, type KeptRow, ownName, putBack, putBackOf, type PutBack } from './put-back';
export { BAG_SUMS, bagRoot, type BagSum, type ListedInBag, readBag } from './read-bag';
export { type WithCopies, withCopies } from './copies';
export { type BagFit, fitBag, type Fitted, pathInBag, placeAll } from './fit';
export { type SavedWith, savedWith } from './saved-with';
export { expiredKeepsakes, type KeepsakeRules } from './retention';
