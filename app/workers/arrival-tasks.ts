import { assertGoing } from '#core/calls';
import { bring, type BringPorts } from '#core/fetch';
import { eachFile } from './each-file';
import type { ArrivalTask, DiskProgress, DiskResults, DiskTask } from './protocol';

/** What the tasks that take in what arrives need of the platform; tests hand in their own. */
export interface DiskPorts extends Omit<BringPorts, 'progress' | 'signal'> {
  /** The bytes of several files after one another, `size` in all. */
  readonly getPack: (hrefs: readonly string[], size: number, signal: AbortSignal) => Promise<Uint8Array<ArrayBuffer>>;
  readonly progress: (progress: DiskProgress) => void;
  readonly signal: AbortSignal;
}

/** One request for all files of the batch: for a thousand small ones the requests cost more than the bytes. */
async function download({ files }: Extract<DiskTask, { do: 'download' }>, ports: DiskPorts): Promise<void> {
  assertGoing(ports.signal);
  const total = files.reduce((sum, { size }) => sum + size, 0);
  const hrefs = files.map(({ href }) => href);
  const bytes = await ports.getPack(hrefs, total, ports.signal);
  let at = 0;
  const parts = files.map(({ to, size }) => ({ to, bytes: bytes.subarray(at, (at += size)) }));
  await eachFile(parts, ports.signal, async ({ to, bytes: own }) => {
    await ports.folder.writeWhole(to, own);
    ports.progress({ kind: 'bytes', files: 1, bytes: own.length });
  });
}

/** @throws Failure `folder/*`, `service/*`, `job/cancelled` */
export async function takeIn(task: ArrivalTask, ports: DiskPorts): Promise<DiskResults[ArrivalTask['do']]> {
  switch (task.do) {
    case 'fetch':
      return bring(task, { ...ports, progress: (news) => ports.progress({ kind: 'piece', ...news }) });
    case 'download':
      return download(task, ports).then(() => ({}));
  }
}
