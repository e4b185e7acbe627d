import { type ContentKey, contentKey, pieceCount, pieceRange, type Sha256 } from '#core/digest';
import { Failure, failureToWire } from '#core/failure';
import type { FolderReader } from '~/folders';
import { eachFile } from './each-file';
import type { DiskProgress, HashResult, HashTask } from './protocol';

export interface HashPorts {
  readonly reader: Pick<FolderReader, 'open' | 'hash'>;
  readonly sha256: Sha256;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

const PIECES_AT_ONCE = 4;

/** The key of a content, hashed piece by piece, a few of them at once. */
export async function hashFile(
  folder: Pick<FolderReader, 'open'>,
  sha256: Sha256,
  path: string,
): Promise<{ size: number; key: ContentKey }> {
  const file = await folder.open(path);
  try {
    const pieces: string[] = [];
    for (let first = 0; first < pieceCount(file.size); first += PIECES_AT_ONCE) {
      const last = Math.min(pieceCount(file.size), first + PIECES_AT_ONCE);
      const some = Array.from({ length: last - first }, async (_, i) => {
        const { start, end } = pieceRange(file.size, first + i);
        const bytes = await file.read(start, end);
        if (bytes.length < end - start) throw new Failure('folder/changed-meanwhile', { path });
        return sha256(bytes);
      });
      pieces.push(...(await Promise.all(some)));
    }
    return { size: file.size, key: contentKey(file.size, pieces) };
  } finally {
    file.close();
  }
}

/** Hashes files; one that cannot be read comes back as itself, and the rest goes on. @throws Failure `job/cancelled` */
export async function hashFiles({ files }: Pick<HashTask, 'files'>, ports: HashPorts): Promise<HashResult> {
  const keys = files.map((): ContentKey | undefined => undefined);
  const sizes = files.map(({ size }) => size);
  const unreadable: { path: string; failure: ReturnType<typeof failureToWire> }[] = [];
  if (ports.reader.hash) {
    const outcomes = await ports.reader.hash(
      files.map(({ path }) => path),
      ports.signal,
      (outcome) => ports.progress({ kind: 'bytes', files: 1, bytes: 'size' in outcome ? outcome.size : 0 }),
    );
    outcomes.forEach((outcome, i) => {
      const { path } = files[i]!;
      if ('code' in outcome) unreadable.push({ path, failure: failureToWire(new Failure(outcome.code, { path })) });
      else {
        sizes[i] = outcome.size;
        keys[i] = contentKey(outcome.size, outcome.pieces);
      }
    });
    return { keys, sizes, unreadable };
  }
  await eachFile(files, ports.signal, async ({ path }, i) => {
    try {
      const { size, key } = await hashFile(ports.reader, ports.sha256, path);
      keys[i] = key;
      sizes[i] = size;
    } catch (error) {
      unreadable.push({ path, failure: failureToWire(error) });
    }
    ports.progress({ kind: 'bytes', files: 1, bytes: sizes[i]! });
  });
  return { keys, sizes, unreadable };
}
