export { query } from './client';
export type { Given, ReadLog, TableReading } from './reading';
export { useQuery } from './use-query';
export type {
  AssembleView,
  ChooseView,
  DifferenceView,
  FetchView,
  FrameView,
  HoldView,
  KnownDigest,
  MendView,
  PlanView,
  SurveyView,
} from './views';
