export { installLock, jobs, type LiveJob } from './job-center';
export { pieceBoard } from './piece-board';
export { isUnderWay, useJobs, useLatestJob } from './use-jobs';
