export { answering } from './answering';
export type { Perform } from './answering';
export { assertGoing, inLanes } from './lanes';
export { Crew } from './member';
export type { CallOptions, Spawn } from './member';
export type { FromWorker, ToWorker, Work } from './messages';
export { ProgressSum } from './progress-sum';
export type { Done } from './progress-sum';
