import { createHash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import {
  type ChangePorts,
  type ChangeSet,
  letGo,
  listJournals,
  openSet,
  PLACES,
  readJournal,
  run,
} from '#core/changes';
import { PIECE_SIZE } from '#core/digest';
import { Failure, failureToWire } from '#core/failure';
import type { ChangeOrder, ChangeResults, ChangeWork, FromChangeThread } from './change-protocol';
import { enginePorts } from './engine-ports';
import { NodeDisk } from './node-disk';

/* A thread that works on games' disks, one order after the other. */

const TELL_MS = 100;

/** Where a content is that has come for the game, by its SHA-256. */
const arrivedPath = (name: string): string => `${PLACES.arrived}/${name}`;

const post = (message: FromChangeThread): void => parentPort!.postMessage(message);

/** Adds up what is done, and tells it ten times a second. */
function progressSum(id: number): { add: ChangePorts['progress']; flush: () => void } {
  const sum = { files: 0, bytes: 0 };
  let told = performance.now();
  const flush = (): void => {
    if (sum.files > 0 || sum.bytes > 0) post({ id, type: 'progress', ...sum });
    Object.assign(sum, { files: 0, bytes: 0 });
    told = performance.now();
  };
  return {
    add: ({ files, bytes }) => {
      sum.files += files;
      sum.bytes += bytes;
      if (performance.now() - told > TELL_MS) flush();
    },
    flush,
  };
}

/** Becomes aborted when the other side sets the number, also while this thread is busy. */
function stopSignal(stop: SharedArrayBuffer): ChangePorts['signal'] {
  const stopped = new Int32Array(stop);
  return {
    get aborted() {
      return Atomics.load(stopped, 0) !== 0;
    },
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  };
}

async function change(
  disk: NodeDisk,
  { set, act, plan }: Extract<ChangeWork, { do: 'change' }>,
  { id, stop }: ChangeOrder,
): Promise<void> {
  const { add, flush } = progressSum(id);
  const ports = enginePorts(disk, disk, stopSignal(stop), add);
  disk.lock();
  try {
    if (act === 'let-go') await letGo(set, ports);
    else {
      if (plan) await openSet(plan, ports);
      await run(set, act, ports);
    }
  } finally {
    flush();
    disk.unlock();
  }
}

/** @throws Failure `service/corrupt-piece` where other bytes have come than were announced */
async function putArrived(disk: NodeDisk, name: string, size: number): Promise<void> {
  const part = `${arrivedPath(name)}.part`;
  const file = await disk.open(part);
  const sum = createHash('sha256');
  try {
    for (let at = 0; at < file.size; at += PIECE_SIZE)
      sum.update(await file.read(at, Math.min(file.size, at + PIECE_SIZE)));
  } finally {
    file.close();
  }
  if (file.size !== size || sum.digest('hex') !== name) {
    await disk.remove(part);
    throw new Failure('service/corrupt-piece', { path: name });
  }
  await disk.move(part, arrivedPath(name));
}

async function journals(
  disk: NodeDisk,
  id: string | undefined,
  { stop }: ChangeOrder,
): Promise<ChangeResults['journal']> {
  const ports = enginePorts(disk, disk, stopSignal(stop));
  if (id !== undefined) {
    const one = await readJournal(ports, id);
    return one ? [one] : [];
  }
  const all = await Promise.all((await listJournals(ports)).map((set) => readJournal(ports, set)));
  // Of many only which trees they are about is asked for: a plan may have a hundred thousand steps.
  const brief = ({ steps, ...set }: ChangeSet): ChangeSet => ({
    ...set,
    steps: steps.filter((step) => step.do === 'exchange'),
  });
  return all.flatMap((one) => (one ? [{ ...one, set: brief(one.set) }] : []));
}

async function perform(disk: NodeDisk, order: ChangeOrder): Promise<ChangeResults[ChangeWork['do']]> {
  const { work } = order;
  switch (work.do) {
    case 'change':
      await change(disk, work, order);
      return {};
    case 'state':
      return { current: disk.lastKnown };
    case 'journal':
      return journals(disk, work.set, order);
    case 'list':
      return disk.list(work.below);
    case 'arrive':
      // A content comes from its beginning on: what an earlier try has left goes first.
      if (work.offset === 0) await disk.remove(`${arrivedPath(work.name)}.part`);
      await disk.writeAt(`${arrivedPath(work.name)}.part`, work.offset, work.bytes);
      return {};
    case 'arrived':
      await putArrived(disk, work.name, work.size);
      return {};
    case 'drop-arrived':
      await disk.remove(PLACES.arrived);
      return {};
  }
}

async function answer(order: ChangeOrder): Promise<FromChangeThread> {
  const { id } = order;
  try {
    const disk = new NodeDisk(order.place);
    try {
      return { id, type: 'done', result: await perform(disk, order) };
    } finally {
      disk.close();
    }
  } catch (error) {
    return { id, type: 'failed', failure: failureToWire(error) };
  }
}

parentPort!.on('message', (order: ChangeOrder) => void answer(order).then(post));
