/** What is needed of a library for Zstandard; a context is what it knows one by. */
export interface ZstdLibrary<Context> {
  readonly init: () => Promise<unknown>;
  readonly createDCtx: () => Context;
  readonly freeDCtx: (context: Context) => unknown;
  /** @throws Error where it is no frame that unpacks to as many bytes as it says */
  readonly decompressUsingDict: (
    context: Context,
    frame: Uint8Array<ArrayBuffer>,
    prefix: Uint8Array<ArrayBuffer>,
  ) => Uint8Array;
}

/** Unpacks a frame with its prefix; undefined where it is none, or unpacks to another number of bytes than `size`. */
export type Unpack = (
  frame: Uint8Array<ArrayBuffer>,
  prefix: Uint8Array<ArrayBuffer>,
  size: number,
) => Promise<Uint8Array<ArrayBuffer> | undefined>;

/**
 * Unpacks by a library that is loaded when the first frame has come. It takes as much memory as the frame says it wants: that has to be asked
 * first (`unpackedSize`).
 */
export function unpacking<Context>(load: () => Promise<ZstdLibrary<Context>>): Unpack {
  let ready: Promise<ZstdLibrary<Context>> | undefined;
  const made = async (): Promise<ZstdLibrary<Context>> => {
    const library = await load();
    await library.init();
    return library;
  };
  return async (frame, prefix, size) => {
    const { createDCtx, decompressUsingDict, freeDCtx } = await (ready ??= made());
    const context = createDCtx();
    try {
      const plain = decompressUsingDict(context, frame, prefix);
      return plain.length === size ? new Uint8Array(plain.buffer as ArrayBuffer, plain.byteOffset, size) : undefined;
    } catch {
      // Whatever it says of it: the frame is not what its index speaks of.
      return undefined;
    } finally {
      freeDCtx(context);
    }
  };
}
