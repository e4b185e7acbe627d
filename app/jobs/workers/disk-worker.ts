import { failureToWire } from '#core/failure';
import { browserDisk, type Folder } from '~/folders';
import { getBytes, getPack } from '~/services/http';
import { platformSha256 } from '~/services/sha256';
import { doDiskTask } from './disk-tasks';
import type { FromWorker, ToWorker } from './protocol';

const disks = new Map<string, Folder>();
const running = new Map<number, AbortController>();

function diskAt(root: string): Folder {
  let disk = disks.get(root);
  if (!disk) disks.set(root, (disk = browserDisk(root)));
  return disk;
}

const post = (message: FromWorker): void => self.postMessage(message);

self.onmessage = async ({ data }: MessageEvent<ToWorker>): Promise<void> => {
  const { id } = data;
  if (data.type === 'stop') {
    running.get(id)?.abort();
    return;
  }
  const stop = new AbortController();
  running.set(id, stop);
  try {
    const result = await doDiskTask(data.task, {
      folder: diskAt(data.task.disk),
      sha256: platformSha256,
      getBytes,
      getPack,
      wait: (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds)),
      progress: (progress) => post({ type: 'progress', id, progress }),
      signal: stop.signal,
    });
    post({ type: 'done', id, result });
  } catch (error) {
    post({ type: 'failed', id, failure: failureToWire(error) });
  } finally {
    running.delete(id);
  }
};
