export { chooseFrames, type Chosen, type Costs, type Missing, type MissingPiece, REQUEST_BYTES } from './choose';
export { type Frame, framesOf, type Part, type PrefixPart } from './frames';
export { unpackedSize } from './header';
export { type BundledFile, type FrameLayout, layoutFrames } from './layout';
export { type Compressor, type Effort, packBundle, type ReadableDepot } from './pack';
export { type Unpack, unpacking, type ZstdLibrary } from './unpack';
export {
  BEFORE_PREFIX,
  type BundleIndex,
  BundleIndexSchema,
  type IndexPart,
  MOST_PACKED,
  MOST_PARTS,
  MOST_PREFIX,
  MOST_UNPACKED,
} from './schema';
