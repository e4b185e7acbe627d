export { fetchReportOf } from './fetch-report';
export { installLock, jobs, type LiveJob } from './job-center';
export { pieceBoard } from './piece-board';
export { isUnderWay, useJobs, latestJob, useLatestJob } from './use-jobs';
