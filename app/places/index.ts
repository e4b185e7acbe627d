export { askFor, canChange } from './can-change';
export { handOver, isHanded } from './handed';
export { layDownWays } from './lay-down-ways';
export { type BatchLimits, type PointedAt, type Source, sourceAt, sourceOf } from './source';
export { storeOf, type StoreReader, text } from './store-of';
