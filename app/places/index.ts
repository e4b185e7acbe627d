export { canChange } from './can-change';
export { handOver, isHanded } from './handed';
export { type BatchLimits, type Source, sourceOf } from './source';
