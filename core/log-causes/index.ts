export {
  CauseReader,
  causesIn,
  type Finding,
  type KnownToLog,
  LineCutter,
  type LogCauses,
  type PatternTime,
} from './causes';
