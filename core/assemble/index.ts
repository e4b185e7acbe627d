export { layDownPlan } from './plan';
export type { LayDownPlan, LayDownRow } from './plan';
export { type Difference, differences, inParts, PART_BYTES, roomInParts, withoutKeeping } from './parts';
export { LAY_DOWN_WAYS, proposeWay, roomNeeded, roomOverParts, roomOverTime } from './room';
export type { LayDownWay, RoomNow, RoomStep, WayReason } from './room';
export { MOST_WRONG, type Proof, proofOf, type ProvenPart } from './proof';
