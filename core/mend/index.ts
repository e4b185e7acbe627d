export { patchImpact } from './impact';
export type { FileChange, PatchImpact } from './impact';
export { assess, EVIDENCE_LEVELS, isAtLeast, strengthOf, VERDICTS, withInferred } from './verdict';
export { shareThatRuns } from './reports';
export type { Assessment, AssessInput, EvidenceLevel, Reason, Trial, Verdict } from './verdict';
export { trialsFrom } from './trials';
export type { TrialOutcome } from './trials';
export { mendSteps } from './mend-steps';
export type { MendStep } from './mend-steps';
