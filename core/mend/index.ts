export { patchImpact } from './impact';
export type { FileChange, PatchImpact } from './impact';
export { assess, EVIDENCE_LEVELS, isAtLeast, strengthOf, touchedBy, VERDICTS, withInferred } from './verdict';
export { shareThatRuns } from './reports';
export type { Assessment, AssessInput, EvidenceLevel, Reason, Trial, Verdict } from './verdict';
export { type Said, SaidSchema } from './said';
export { trialsFrom } from './trials';
export type { TrialOutcome } from './trials';
export { mendSteps } from './mend-steps';
export type { MendStep } from './mend-steps';
export { type Benched, type BenchNow, BenchedSchema, isDue, type Until, UntilSchema } from './bench';
export {
  afterSteps,
  type ModMove,
  type StepAlone,
  stepAlone,
  type StepWish,
  withNeeds,
  type WorkItem,
  workList,
} from './work-list';
export { madeFor } from './made-for';
export { factsOfMoves, movesBetween, movesOfFacts, type ToldMove } from './moves';
export { vanillaFinder } from './vanilla';
