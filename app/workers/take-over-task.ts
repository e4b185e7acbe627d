import { assertGoing } from '#core/calls';
import type { ArrivalFolder } from '#core/contents';
import { keySize, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { arrivalSink } from './arrival-sink';
import type { LookPorts } from './look-tasks';
import type { TakeOverTask } from './protocol';

type TakeOverPorts = Omit<LookPorts, 'reader'> & { readonly from: FolderReader; readonly to: ArrivalFolder };

/**
 * Takes contents that lie on another disk into a store, each once its bytes are what they are said to be.
 * @throws Failure `folder/changed-meanwhile` where they are others, `folder/*`, `job/cancelled`
 */
export async function takeOver(
  { contents }: TakeOverTask,
  { sha256, progress, signal, from, to }: TakeOverPorts,
): Promise<void> {
  for (const [key, path] of contents) {
    const sink = await arrivalSink(key, { sha256, to });
    const [file, size] = [await from.open(path), keySize(key)];
    try {
      if (file.size !== size) throw new Failure('folder/changed-meanwhile', { path });
      for (let at = 0; at < size || at === 0; at += PIECE_SIZE) {
        assertGoing(signal);
        await sink.take(await file.read(at, Math.min(size, at + PIECE_SIZE)), at);
      }
    } finally {
      file.close();
    }
    if (!(await sink.done())) throw new Failure('folder/changed-meanwhile', { path });
    progress({ kind: 'bytes', files: 1, bytes: size });
  }
}
