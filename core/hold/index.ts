export { HOLD_SHEET_VERSION, HoldSheetSchema, parseHoldSheet, writeHoldSheet } from './sheet';
export type { HoldSheet } from './sheet';
export { drift } from './drift';
export { RecordSchema, StorefrontAnswerSchema } from './record';
export type { InstallRecord, StorefrontAnswer } from './record';
