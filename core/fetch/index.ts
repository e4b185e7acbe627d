export { bring } from './bring';
export { NOTHING_BROUGHT } from './bring-ports';
export type { BringPorts, Brought, BroughtSoFar, PieceNews, PieceState, StreamHash } from './bring-ports';
export {
  framesFor,
  haulFrames,
  type OfferedFrame,
  type Planned,
  type PlannedFrame,
  planFrames,
  wireCost,
} from './by-frames';
export type { WireCost } from './by-frames';
export { type Haul, type HaulFile, type HaulFrame, haulsOf } from './hauls';
export type { ByteRange } from './runs';
export { isOfOneFile, isPassing } from './passing';
export { type SetByHand, withOwnSettings } from './presets';
export { coveredVanilla, fileHref, targetTree, writtenKey } from './target';
export type { Owner, TargetCopy, TargetFile, TargetInput } from './target';
export {
  bytesToCome,
  diskContents,
  fetchTotals,
  isNowhere,
  isPartOfFetch,
  isToCome,
  piecesOf,
  whatToFetch,
} from './what-to-fetch';
export type {
  DiskContents,
  FetchItem,
  FetchPart,
  FilePart,
  OnDisk,
  PieceSource,
  PieceWhence,
  Source,
} from './what-to-fetch';
export { isRangeAnswer } from './range-answer';
export { type RateCourse, RateSamples } from './rate-samples';
export { Width } from './width';
