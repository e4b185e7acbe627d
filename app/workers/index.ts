export { answerMessages } from './answer-messages';
export { browserThread } from './browser-thread';
export type { ChangedPlace } from './change-task';
export { hireDiskPool } from './hire';
export { hashFiles } from './look-tasks';
export { pauseFor } from './pause-for';
export type { DiskPool } from './hire';
export type {
  MergedFile,
  PlacedFile,
  ArchiveFile,
  ArrivalPlace,
  BagFile,
  DiskProgress,
  DiskResults,
  DiskTask,
  FolderAsArchive,
  HashResult,
  Listing,
} from './protocol';
