export { readStartLog, type StartLog } from './read';
