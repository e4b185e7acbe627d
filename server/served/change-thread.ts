import { createHash } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { workerData } from 'node:worker_threads';
import { Crew, type Perform, ProgressSum } from '#core/calls';
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
import { Failure } from '#core/failure';
import type { ChangeResults, ChangeTask, ChangeThreadData, ChangeWork } from './change-protocol';
import { enginePorts, hashBeside } from './engine-ports';
import type { LookWork } from './look-protocol';
import { NodeDisk } from './node-disk';
import { assertNotInUse } from './open-below';
import { answerParent, serverThread } from './server-thread';

/* A thread that works on games' disks. */

type Asked = Parameters<Perform<ChangeWork, AbortSignal>>[1];

/** Where a content is that has come for the game, by its SHA-256. */
const arrivedPath = (name: string): string => `${PLACES.arrived}/${name}`;

const { looking } = workerData as ChangeThreadData;
const HASHING_MEMORY = { maxYoungGenerationSizeMb: 8, maxOldGenerationSizeMb: 64 };
/** What this thread has written is hashed beside it, while it writes on. */
const hashing = new Crew<LookWork>(
  Math.max(1, Math.min(2, availableParallelism() - 1)),
  serverThread(new URL(looking), HASHING_MEMORY),
);

const portsOf = (disk: NodeDisk, { signal, progress }: Asked): ChangePorts =>
  enginePorts(disk, { hash: hashBeside(disk, hashing), signal, progress });

async function change(
  disk: NodeDisk,
  { set, act, plan }: Extract<ChangeTask, { do: 'change' }>,
  { signal, progress }: Asked,
): Promise<void> {
  const sum = new ProgressSum(progress, () => performance.now());
  const ports = portsOf(disk, { signal, progress: sum.add });
  disk.lock();
  try {
    if (act === 'let-go') await letGo(set, ports);
    else {
      // A game that runs would be left half old and half new.
      assertNotInUse(disk.gamePath);
      if (plan) await openSet(plan, ports);
      await run(set, act, ports);
    }
  } finally {
    sum.flush();
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

async function journals(disk: NodeDisk, id: string | undefined, asked: Asked): Promise<ChangeResults['journal']> {
  const ports = portsOf(disk, asked);
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

async function perform(disk: NodeDisk, task: ChangeTask, asked: Asked): Promise<ChangeResults[ChangeTask['do']]> {
  switch (task.do) {
    case 'change':
      await change(disk, task, asked);
      return {};
    case 'state':
      return { current: disk.lastKnown };
    case 'journal':
      return journals(disk, task.set, asked);
    case 'list':
      return disk.list(task.below);
    case 'arrive':
      // A content comes from its beginning on: what an earlier try has left goes first.
      if (task.offset === 0) await disk.remove(`${arrivedPath(task.name)}.part`);
      await disk.writeAt(`${arrivedPath(task.name)}.part`, task.offset, task.bytes);
      return {};
    case 'arrived':
      await putArrived(disk, task.name, task.size);
      return {};
    case 'drop-arrived':
      await disk.remove(PLACES.arrived);
      return {};
  }
}

answerParent<ChangeWork>(async (task, asked) => {
  const disk = new NodeDisk(task.place);
  try {
    return await perform(disk, task, asked);
  } finally {
    disk.close();
  }
});
