import { type Act, carryOut } from '#core/contents';
import { type ChangePorts, type Disk, inspect, type Inspected, type Inspection } from '#core/changes';
import { isFailure } from '#core/failure';
import type { HashOutcome } from '#core/folders';
import type { BesidePlaces, Place } from '~/folders';
import { eachFile } from './each-file';
import { hashFile, type LookPorts } from './look-tasks';

/** Disks whose change sets a worker runs. */
export type ChangedPlace = Extract<Place, { kind: 'browser-disk' | 'picked' }>;

/** Carries an act out where its disk is. */
export interface ChangeTask {
  readonly do: 'change';
  readonly place: ChangedPlace;
  /** The tree that is the game's folder for as long as nothing has been swapped there. */
  readonly tree: string;
  /** Folders beside the disk, by what it calls them. */
  readonly beside?: BesidePlaces;
  readonly act: Act;
}

/** Reads files of such a disk, to say what changes of them meet. */
export interface InspectTask extends Omit<ChangeTask, 'do' | 'act'> {
  readonly do: 'inspect';
  readonly inspection: Inspection;
}

/** @throws Failure `changes/*`, `folder/*`, `job/cancelled` */
export const changeDisk = (task: ChangeTask, disk: Disk, ports: Omit<LookPorts, 'reader'>): Promise<void> =>
  carryOut(task.act, portsOn(disk, ports));

/** @throws Failure as {@link changeDisk} */
export const inspectDisk = (task: InspectTask, disk: Disk, ports: Omit<LookPorts, 'reader'>): Promise<Inspected> =>
  inspect(task.inspection, portsOn(disk, ports));

function portsOn(disk: Disk, { sha256, signal, progress }: Omit<LookPorts, 'reader'>): ChangePorts {
  return {
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
    now: Date.now,
    signal,
    progress: ({ files, bytes }) => progress({ kind: 'bytes', files, bytes }),
  };
}
