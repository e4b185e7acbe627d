export { PIECE_SIZE, contentKey, keyPieces, keySize, pieceCount, pieceRange, treeDigest } from './pieces';
export type { ContentKey, Sha256 } from './pieces';
export { fromHex, isHexOf, toHex } from './hex';
