export {
  contentKey,
  contentKeyOfDigits,
  isPieceSize,
  keyPieces,
  keyPieceSize,
  keySize,
  PIECE_SIZE,
  pieceBytes,
  pieceCount,
  pieceRange,
  treeDigest,
} from './pieces';
export type { ContentKey, Sha256 } from './pieces';
export { fromHex, isHexOf, putHex, toHex } from './hex';
