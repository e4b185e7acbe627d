export { answerMessages } from './answer-messages';
export { browserThread } from './browser-thread';
export type { ChangedPlace } from './change-task';
export { hireDiskPool } from './hire';
export type { DiskPool } from './hire';
export type { ArrivalPlace, DiskResults, DiskTask, HashResult, Listing, Packed, PieceState } from './protocol';
