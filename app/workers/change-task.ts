import { type ChangePorts, type ChangeSet, type Direction, type Disk, letGo, openSet, run } from '#core/changes';
import { Failure, isFailure } from '#core/failure';
import type { HashOutcome } from '#core/folders';
import type { Place } from '~/folders';
import { eachFile } from './each-file';
import { hashFile, type LookPorts } from './look-tasks';

/** Disks whose change sets a worker runs. */
export type ChangedPlace = Extract<Place, { kind: 'browser-disk' | 'picked' }>;

/** Runs a change set where its disk is, or removes what one keeps. */
export interface ChangeTask {
  readonly do: 'change';
  readonly place: ChangedPlace;
  /** The tree that is the game's folder for as long as nothing has been swapped there. */
  readonly tree: string;
  readonly set: string;
  /** Written down first, where it is new. */
  readonly plan?: ChangeSet | undefined;
  readonly act: Direction | 'let-go';
}

/** @throws Failure `changes/*`, `folder/*`, `job/cancelled` */
export async function changeDisk(
  { set, plan, act }: ChangeTask,
  disk: Disk,
  { sha256, signal, progress }: Omit<LookPorts, 'reader'>,
): Promise<void> {
  const ports: ChangePorts = {
    disk,
    sha256,
    hash: async (files) => {
      const outcomes: HashOutcome[] = [];
      // What is read here has been counted when it was written.
      const looking = { reader: disk, sha256, signal, progress: () => undefined };
      await eachFile(files, signal, async (file, i) => {
        outcomes[i] = await hashFile(file, looking).then(
          ({ size, pieces }) => ({ size, bytes: size, pieces }),
          (error: unknown) => {
            if (isFailure(error) && error.code.startsWith('folder/')) return { code: error.code };
            throw error;
          },
        );
      });
      return outcomes;
    },
    encode: (text) => new TextEncoder().encode(text),
    decode: (bytes) => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
    signal,
    progress: ({ files, bytes }) => progress({ kind: 'bytes', files, bytes }),
  };
  if (act === 'let-go') return letGo(set, ports);
  if (plan) {
    if (plan.id !== set) throw new Failure('changes/unknown', { set });
    await openSet(plan, ports);
  }
  await run(set, act, ports);
}
