export {
  type Cause,
  CAUSES,
  CauseReader,
  causesIn,
  type Finding,
  type KnownToLog,
  LineCutter,
  type LogCauses,
} from './causes';
