import { Failure } from '#core/failure';
import { type Decide, type FileHints, type FileMerge, mergeFile } from '#core/merge';
import { decode, type Decoded, encode } from './encoding';

/** Larger files are not gone into: three of them are held at once, with what their parts are called. */
const MOST_BYTES = 128 * 1024 * 1024;

export interface BytesMerge extends Omit<FileMerge, 'merged'> {
  /** Undefined as long as a conflict is open. */
  readonly merged: Uint8Array<ArrayBuffer> | undefined;
}

type Three = readonly [base: Uint8Array<ArrayBuffer>, ours: Uint8Array<ArrayBuffer>, theirs: Uint8Array<ArrayBuffer>];

/** A sign for each byte. */
const asSigns = (bytes: Uint8Array<ArrayBuffer>): string => {
  const parts: string[] = [];
  for (let at = 0; at < bytes.length; at += 8192) parts.push(String.fromCharCode(...bytes.subarray(at, at + 8192)));
  return parts.join('');
};

/**
 * Merges two files that were made from a third; a text keeps the encoding of ours.
 * @returns undefined for bytes that nothing explains, which are never guessed, and for what is too large
 * @throws Failure `merge/encoding` where theirs has signs that the encoding of ours has not
 */
export function mergeBytes(three: Three, hints: FileHints, decide: Decide): BytesMerge | undefined {
  if (three.some(({ length }) => length > MOST_BYTES)) return undefined;
  if (hints.layout) {
    const [base, ours, theirs] = three;
    const merge = mergeFile([asSigns(base), asSigns(ours), asSigns(theirs)], hints, decide);
    return (
      merge && {
        ...merge,
        merged: merge.merged === undefined ? undefined : Uint8Array.from(merge.merged, (sign) => sign.charCodeAt(0)),
      }
    );
  }
  const [base, ours, theirs] = three.map(decode);
  if (!base || !ours || !theirs) return undefined;
  const merge = mergeFile([base.text, ours.text, theirs.text], hints, decide);
  return (
    merge && {
      ...merge,
      merged: merge.merged === undefined ? undefined : written(merge.merged, ours, theirs, hints.path),
    }
  );
}

/** A text in the encoding of ours, or in that of theirs where all of it is theirs. */
function written(text: string, ours: Decoded, theirs: Decoded, path: string): Uint8Array<ArrayBuffer> {
  const bytes = encode(text, text === theirs.text && text !== ours.text ? theirs : ours);
  if (!bytes) throw new Failure('merge/encoding', { path, encoding: ours.encoding });
  return bytes;
}
