import { type ArrivalFolder, arrivingPath, contentName } from '#core/contents';
import type { ContentKey, Sha256 } from '#core/digest';
import { KeyOfPieces } from './piece-sink';

/** Puts down the pieces of a content as they come. */
export interface ArrivalSink {
  take(piece: Uint8Array<ArrayBuffer>, at: number): Promise<void>;
  /** Takes it over into the store where its bytes are right. @returns whether they are */
  done(): Promise<boolean>;
}

/** Makes room for a content that comes piece by piece, over what an earlier try has left there. */
export async function arrivalSink(
  key: ContentKey,
  { sha256, to }: { readonly sha256: Sha256; readonly to: ArrivalFolder },
): Promise<ArrivalSink> {
  const [name, found] = [await contentName(key, sha256), new KeyOfPieces(sha256)];
  const path = arrivingPath(name);
  await to.remove(path);
  return {
    async take(piece, at) {
      await found.add(piece);
      if (piece.length === 0) await to.writeWhole(path, piece);
      else await to.writeAt(path, at, piece);
    },
    async done() {
      if ((await found.key()) !== key) return false;
      await to.takeIn(name, key);
      return true;
    },
  };
}
