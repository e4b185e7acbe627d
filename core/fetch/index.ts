export { bring, NOTHING_BROUGHT, requestsToFetch } from './bring';
export type { BringPorts, Brought, BroughtSoFar, ByteRange, PieceNews, PieceState, StreamHash } from './bring';
export { type Haul, type HaulFile, haulsOf, type Packed, type PackRange, placesInPack } from './hauls';
export { isOfOneFile, isPassing } from './passing';
export { withPresets } from './presets';
export { coveredVanilla, fileHref, targetTree, writtenKey } from './target';
export type { Owner, TargetCopy, TargetFile, TargetInput } from './target';
export {
  bytesToCome,
  diskContents,
  fetchTotals,
  isNowhere,
  isPartOfFetch,
  piecesOf,
  whatToFetch,
} from './what-to-fetch';
export type { DiskContents, FetchItem, FetchPart, OnDisk, PieceSource, PieceWhence, Source } from './what-to-fetch';
export { isRangeAnswer } from './range-answer';
export { type RateCourse, RateSamples } from './rate-samples';
export { Width } from './width';
