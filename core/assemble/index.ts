export { layDownPlan } from './plan';
export type { LayDownPlan, LayDownRow } from './plan';
export { roomOverTime } from './room';
export type { LayDownWay, RoomStep } from './room';
