export { answering } from './answering';
export type { Perform } from './answering';
export { Crew, Member } from './member';
export type { CallOptions, Spawn } from './member';
export type { FromWorker, ToWorker, Work } from './messages';
export { pauseFor } from './pause-for';
export { ProgressSum } from './progress-sum';
export type { Done } from './progress-sum';
