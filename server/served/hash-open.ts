import { createHash, hash } from 'node:crypto';
import { fstatSync, readSync } from 'node:fs';
import { PIECE_SIZE, pieceCount, pieceRange } from '#core/digest';
import { Failure } from '#core/failure';
import type { HashOutcome, HashWish } from '#core/folders';

const buffer = Buffer.alloc(PIECE_SIZE);
const changed = (path: string): Failure => new Failure('folder/changed-meanwhile', { path });

/** Fills the buffer with bytes `[start, end)`, at most a piece of the usual size. */
function fill(fd: number, path: string, start: number, end: number): Buffer {
  const wanted = end - start;
  for (let filled = 0; filled < wanted;) {
    const read = readSync(fd, buffer, filled, wanted - filled, start + filled);
    if (read === 0) throw changed(path);
    filled += read;
  }
  return buffer.subarray(0, wanted);
}

function digestOf(fd: number, path: string, start: number, end: number): string {
  if (end - start <= PIECE_SIZE) return hash('sha256', fill(fd, path, start, end), 'hex');
  const streamed = createHash('sha256');
  for (let at = start; at < end; at += PIECE_SIZE) streamed.update(fill(fd, path, at, Math.min(end, at + PIECE_SIZE)));
  return streamed.digest('hex');
}

/**
 * Hashes the pieces of an open file, or those of its span.
 * @throws Failure `folder/changed-meanwhile`
 */
export function hashOpen(
  fd: number,
  { path, size: expected, span, pieceSize = PIECE_SIZE }: HashWish,
): Exclude<HashOutcome, { code: unknown }> {
  const before = fstatSync(fd);
  const { size } = before;
  if (span && size !== expected) throw changed(path);
  const count = pieceCount(size, pieceSize);
  // A span ends with the file, whatever is asked for.
  const [first, end] = span ? [Math.min(span.first, count), Math.min(span.end, count)] : [0, count];
  const pieces: string[] = [];
  let bytes = 0;
  for (let piece = first; piece < end; piece++) {
    const range = pieceRange(size, piece, pieceSize);
    pieces.push(digestOf(fd, path, range.start, range.end));
    bytes += range.end - range.start;
  }
  // A single piece of the usual size comes in one read, and is what the file was then.
  if (bytes > PIECE_SIZE) {
    const after = fstatSync(fd);
    if (after.size !== size || after.mtimeMs !== before.mtimeMs) throw changed(path);
  }
  return { size, bytes, pieces };
}
