import '~/no-eval';
import { failureToWire } from '#core/failure';
import { changeDisk } from './change-task';
import { type ArrivalFolder, browserDisk, type Place, readerAt, servedStore, withPointer } from '~/folders';
import type { Folder, FolderReader } from '#core/folders';
import { getBytes, getPack, platformSha256 } from '~/remote';
import { takeIn } from './arrival-tasks';
import { lookAtFolder } from './look-tasks';
import { ProgressSum } from './progress-sum';
import type { ArrivalPlace, DiskProgress, DiskResults, DiskTask, FromWorker, ToWorker } from './protocol';

const disks = new Map<string, Folder>();
const running = new Map<number, AbortController>();

function diskAt(root: string): Folder {
  let disk = disks.get(root);
  if (!disk) disks.set(root, (disk = browserDisk(root)));
  return disk;
}

const readerOf = (place: Place): FolderReader => (place.kind === 'browser-disk' ? diskAt(place.disk) : readerAt(place));

const arrivalsAt = (place: ArrivalPlace): ArrivalFolder =>
  place.kind === 'served' ? servedStore(place) : diskAt(place.disk);

const post = (message: FromWorker): void => self.postMessage(message);

async function perform(
  task: DiskTask,
  progress: (progress: DiskProgress) => void,
  signal: AbortSignal,
): Promise<DiskResults[DiskTask['do']]> {
  const ports = { sha256: platformSha256, progress, signal };
  if (task.do === 'hash' || task.do === 'list') return lookAtFolder(task, { ...ports, reader: readerOf(task.place) });
  // The archive writer is loaded when the first keepsake is packed.
  if (task.do === 'bag') {
    const { packBag } = await import('./bag-task');
    return packBag(task, readerOf(task.place), { ...ports, folder: diskAt(task.disk) });
  }
  if (task.do === 'change') {
    await changeDisk(task, withPointer(diskAt(task.disk), task.tree), ports);
    return {};
  }
  return takeIn(task, {
    ...ports,
    folder: arrivalsAt(task.do === 'fetch' ? task.place : { kind: 'browser-disk', disk: task.disk }),
    getBytes,
    getPack,
    wait: (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds)),
  });
}

self.onmessage = async ({ data }: MessageEvent<ToWorker>): Promise<void> => {
  const { id } = data;
  if (data.type === 'stop') {
    running.get(id)?.abort();
    return;
  }
  const stop = new AbortController();
  running.set(id, stop);
  const sum = new ProgressSum((progress) => post({ type: 'progress', id, progress }));
  try {
    const result = await perform(data.task, sum.add, stop.signal);
    sum.flush();
    post({ type: 'done', id, result });
  } catch (error) {
    sum.flush();
    post({ type: 'failed', id, failure: failureToWire(error) });
  } finally {
    running.delete(id);
  }
};
