export {
  GameAnswerSchema,
  PackRequestSchema,
  PanelStateSchema,
  SeedListSchema,
  SessionAnswerSchema,
  StartRequestSchema,
} from './wire';
export type {
  GameAnswer,
  PanelAction,
  PanelState,
  SeedFile,
  SeedList,
  SessionAnswer,
  SignIn,
  StartRequest,
} from './wire';
export { PanelActionSchema, SignInSchema } from './wire';
export { type InstallRecord, RecordSchema, type StorefrontAnswer, StorefrontAnswerSchema } from './record';
