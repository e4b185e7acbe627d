export { layDownPlan } from './plan';
export type { LayDownPlan, LayDownRow } from './plan';
export { proposeWay, roomNeeded, roomOverTime } from './room';
export type { LayDownWay, RoomStep, WayReason } from './room';
