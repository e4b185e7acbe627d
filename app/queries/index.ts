export { query } from './client';
export type { Given, ReadLog, TableReading } from './reading';
export { useQuery } from './use-query';
export type {
  AssembleView,
  BranchView,
  ChangeDetails,
  ChooseView,
  DifferenceView,
  BroughtFile,
  RecordedFile,
  RecordPlan,
  DepotLine,
  FetchView,
  FrameView,
  HoldView,
  KeepPlan,
  KeepsakesView,
  KeepsakeView,
  KnownDigest,
  MendView,
  OwnPlaceView,
  PlanView,
  ProfileView,
  ReplacedView,
  SurveyView,
  SwitchPlan,
  SwitchView,
} from './views';
