export {
  contentKey,
  isPieceSize,
  keyPieces,
  keyPieceSize,
  keySize,
  PIECE_SIZE,
  pieceCount,
  pieceRange,
  treeDigest,
} from './pieces';
export type { ContentKey, Sha256 } from './pieces';
export { fromHex, isHexOf, toHex } from './hex';
