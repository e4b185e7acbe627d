import { contentKey, type ContentKey, PIECE_SIZE, type Sha256 } from '#core/digest';

/** Takes a stream piece by piece, none longer than {@link PIECE_SIZE}; all but the last have just that length. */
export function pieceSink(
  most: number,
  take: (piece: Uint8Array<ArrayBuffer>, at: number) => Promise<void>,
): WritableStream<Uint8Array> {
  let piece = new Uint8Array(PIECE_SIZE);
  let [filled, at] = [0, 0];
  const put = async (): Promise<void> => {
    await take(piece.subarray(0, filled), at);
    [piece, at, filled] = [new Uint8Array(PIECE_SIZE), at + filled, 0];
  };
  return new WritableStream<Uint8Array>({
    async write(chunk) {
      if (at + filled + chunk.length > most) throw new Error('more bytes than the archive says');
      for (let from = 0; from < chunk.length;) {
        const some = chunk.subarray(from, from + PIECE_SIZE - filled);
        piece.set(some, filled);
        filled += some.length;
        from += some.length;
        if (filled === PIECE_SIZE) await put();
      }
    },
    close: async () => {
      if (filled > 0 || at === 0) await put();
    },
  });
}

/** Works out the key of what goes by piece by piece; a piece is hashed while the next one comes. */
export class KeyOfPieces {
  readonly #pieces: Promise<string>[] = [];
  #size = 0;

  constructor(private readonly sha256: Sha256) {}

  /** @returns when the piece before this one has been hashed, so that no more than two wait in memory */
  async add(piece: Uint8Array<ArrayBuffer>): Promise<void> {
    this.#size += piece.length;
    const before = this.#pieces.at(-1);
    this.#pieces.push(this.sha256(piece));
    await before;
  }

  async key(): Promise<ContentKey> {
    return contentKey(this.#size, await Promise.all(this.#pieces));
  }
}
