export type { ChangePorts, Disk } from './disk';
export { letGo, openSet, run } from './execute';
export { type Direction, type Journalled, listJournals, readJournal } from './journal';
export {
  CHANGES_VERSION,
  type ChangeSet,
  ChangeSetIdSchema,
  ChangeSetSchema,
  PLACES,
  stagedPath,
  type Step,
  STORE_FOLDER,
  treeFolder,
} from './schema';
