import { type ContentKey, keyPieceSize } from '#core/digest';
import { Failure } from '#core/failure';
import { keyAt, type Manifest } from '#core/manifest';
import { type BundleIndex, type IndexPart, MOST_PREFIX, MOST_UNPACKED } from './schema';

/** Bytes `[start, end)` of a content. */
export interface Part {
  readonly key: ContentKey;
  readonly start: number;
  readonly end: number;
}

/** Part of what a frame begins with. */
export interface PrefixPart extends Part {
  /** The file that it is of, at the build that has to be had. */
  readonly path: string;
}

/** A frame of a bundle, with what is in it by contents. */
export interface Frame {
  /** Where it lies in the bundle, `length` bytes. */
  readonly at: number;
  readonly length: number;
  /** Bytes that it unpacks to. */
  readonly size: number;
  readonly parts: readonly Part[];
  readonly prefix: readonly PrefixPart[];
}

const sum = (parts: readonly Part[]): number => parts.reduce((bytes, { start, end }) => bytes + end - start, 0);

/**
 * The frames of a bundle.
 * @param manifest that its numbers are of
 * @param base the manifest that the numbers of its prefixes are of, where it has any
 * @throws Failure `bundle/does-not-fit` for an index that says what cannot be
 */
export function framesOf(index: BundleIndex, manifest: Manifest, base: Manifest | undefined): Frame[] {
  const refuse = (frame: number, problem: string): never => {
    throw new Failure('bundle/does-not-fit', { build: index.build, depot: index.depot, frame, problem });
  };
  // A large file is spoken of by many frames, and its key is as long as it has pieces.
  const keysOf = (of: Manifest): ((file: number) => ContentKey) => {
    const known: ContentKey[] = [];
    return (file) => (known[file] ??= keyAt(of, file));
  };
  const [wantedKey, baseKey] = [keysOf(manifest), base && keysOf(base)];
  const partOf = (part: IndexPart, of: Manifest, frame: number, isWanted: boolean): PrefixPart => {
    const [file, start, end] = typeof part === 'number' ? [part, 0, of.sizes[part] ?? 0] : part;
    if (file >= of.paths.length) refuse(frame, `has a file ${file}, of ${of.paths.length}`);
    const [path, size, key] = [of.paths[file]!, of.sizes[file]!, isWanted ? wantedKey(file) : baseKey!(file)];
    const isIn = start < end && end <= size;
    // Pieces are what bytes are checked by.
    const isCut = isWanted && (start % keyPieceSize(key) !== 0 || (end !== size && end % keyPieceSize(key) !== 0));
    if (!isIn || isCut) refuse(frame, `has bytes ${start} to ${end} of a file of ${size}`);
    return { key, start, end, path };
  };
  let at = 0;
  return index.frames.map(({ length, parts: said, prefix: saidPrefix = [] }, i) => {
    if (saidPrefix.length > 0 && !base) refuse(i, 'has a prefix of no build');
    const parts = said.map((part): Part => partOf(part, manifest, i, true));
    const prefix = saidPrefix.map((part) => partOf(part, base!, i, false));
    const frame = { at, length, size: sum(parts), parts, prefix };
    if (frame.size > MOST_UNPACKED) refuse(i, `unpacks to ${frame.size} bytes`);
    if (sum(prefix) > MOST_PREFIX) refuse(i, `has a prefix of ${sum(prefix)} bytes`);
    at += length;
    return frame;
  });
}
