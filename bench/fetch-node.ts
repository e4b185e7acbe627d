export { BEFORE_PREFIX, BundleIndexSchema, chooseFrames, framesOf, REQUEST_BYTES, unpackedSize } from '#core/bundles';
export { DepotIndexSchema } from '#core/builds';
export { keyPieces, keyPieceSize, keySize, pieceRange } from '#core/digest';
export { fileAt, manifestFiles, parseMetalink } from '#core/manifest';
