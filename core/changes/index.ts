export type { ChangePorts, Disk } from './disk';
export { letGo, openSet, progressOf, run } from './execute';
export {
  blockers,
  type HistoryEntry,
  HistoryEntrySchema,
  HISTORY_VERSION,
  putHistory,
  readHistory,
  entryOf,
} from './history';
export { type Direction, type Journalled, listJournals, readJournal } from './journal';
export { putRecord, recordAt, type RecordPorts } from './own-records';
export {
  CHANGES_VERSION,
  type ChangeSet,
  ChangeSetIdSchema,
  ChangeSetSchema,
  isKey,
  isInStore,
  isOwnRecord,
  isShared,
  keptPath,
  KeySchema,
  PLACES,
  stagedPath,
  type Step,
  STORE_FOLDER,
  treeFolder,
} from './schema';
export { notAs } from './steps';
