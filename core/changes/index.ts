export { type Aside, asideOf, isAsRead, othersIn, type Spoiled, spoiledIn } from './aside';
export type { ChangePorts, Disk } from './disk';
export { assertNamed, letGo, type NamedFile, openSet, progressOf, run, type Turning } from './execute';
export {
  blockers,
  type HistoryEntry,
  HistoryEntrySchema,
  HISTORY_VERSION,
  putHistory,
  readHistory,
  entryOf,
} from './history';
export { inspect, type Inspected, InspectedSchema, type Inspection, InspectionSchema } from './inspect';
export { type Direction, type Journalled, listJournals, listOpen, readJournal } from './journal';
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
  type Leaves,
  LeavesSchema,
  PLACES,
  type Settlement,
  SettlementSchema,
  stagedPath,
  type Step,
  STORE_FOLDER,
  textKey,
  treeFolder,
} from './schema';
export { type Parting, partings } from './partings';
export { keyAt, type Met, type SettledStep, whatTheyMeet, type Whose } from './settle';
export { notAs } from './steps';
