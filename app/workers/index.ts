export { hireDiskPool } from './hire';
export type { DiskPool } from './pool';
export type { ArrivalPlace, DiskResults, DiskTask, HashResult, Listing, PieceState } from './protocol';
