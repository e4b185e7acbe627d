export { layDownPlan } from './plan';
export type { LayDownPlan, LayDownRow } from './plan';
export { roomOverTime } from './room';
export type { RoomStep } from './room';
export { JournalEntrySchema, whereToGoOn } from './journal';
export type { JournalChange, JournalEntry, NextPhase } from './journal';
