export { patchImpact } from './impact';
export type { FileChange, PatchImpact } from './impact';
export { assess, withInferred } from './verdict';
export type { Assessment, AssessInput, Reason, Trial, Verdict } from './verdict';
export { mendSteps } from './mend-steps';
export type { MendStep } from './mend-steps';
