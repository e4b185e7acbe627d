export { memoryFolder } from './memory-folder';
export { LOOK_ONLY, noTimes } from './port';
export type {
  Folder,
  FolderAbilities,
  FolderEntry,
  FolderReader,
  HashOutcome,
  HashWish,
  ListListener,
  OpenFile,
  StopSignal,
} from './port';
