export { chooseFrames, type Chosen, type Missing, REQUEST_BYTES } from './choose';
export { type Frame, framesOf, type Part } from './frames';
export { unpackedSize } from './header';
export { type BundledFile, type FrameLayout, layoutFrames } from './layout';
export {
  BEFORE_PREFIX,
  type BundleIndex,
  BundleIndexSchema,
  type IndexPart,
  MOST_PREFIX,
  MOST_UNPACKED,
} from './schema';
