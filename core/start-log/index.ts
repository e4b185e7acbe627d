export { readStartLog, type StartLog } from './read';
export { isBefore, startedAt, type ToldTime, type WrittenWhen } from './when';
