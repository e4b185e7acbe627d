export { askFor, beginQuestion, canChange, type Changing, changingOf } from './can-change';
export { handOver, isHanded } from './handed';
export { layDownWays } from './lay-down-ways';
export { type BatchLimits, type PointedAt, type Source, sourceAt, sourceOf } from './source';
export {
  isKeptInFolder,
  listOwn,
  newestKeepsake,
  type OwnListed,
  type OwnPlace,
  ownPlaces,
  ownReadBefore,
} from './own-files';
export { type OtherFolder, otherFolders } from './other-folders';
export { toldTimesOf } from './told-times';
export { assertThere, keepsakeAt, keepsakesBy, keepsakesOf } from './keepsakes';
export {
  contentsBeside,
  freeBytes,
  keeperOf,
  onBrowserDisk,
  storeOf,
  type StoreLies,
  type StoreReader,
  text,
} from './store-of';
