export { answerMessages } from './answer-messages';
export { browserThread } from './browser-thread';
export type { ChangedPlace } from './change-task';
export { hireDiskPool } from './hire';
export { pauseFor } from './pause-for';
export type { DiskPool } from './hire';
export type { ArrivalPlace, DiskProgress, DiskResults, DiskTask, HashResult, Listing, Packed } from './protocol';
