export { type Culprit, narrow, type Narrowed, type Question, type Trial } from './narrow';
export type { Start } from './suspicion';
export { changedSince, type Sign, SIGNS, weightOf } from './suspects';
