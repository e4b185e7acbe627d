import { createHash } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { setTimeout } from 'node:timers/promises';
import { workerData } from 'node:worker_threads';
import { unpacking } from '#core/bundles';
import { assertGoing, Crew, type Perform, ProgressSum } from '#core/calls';
import { type ChangePorts, inspect, listOpen, notAs, PLACES, readJournal } from '#core/changes';
import {
  type Act,
  arrivals,
  arrivingPath,
  carryOut,
  changesGame,
  contentName,
  contentPath,
  contentSources,
  readMirror,
  storeView,
} from '#core/contents';
import { type ContentKey, keySize, type Sha256 } from '#core/digest';
import { Failure } from '#core/failure';
import { bring } from '#core/fetch';
import { readKeepsake, readKeepsakes } from '#core/keepsakes';
import type { ChangeResults, ChangeTask, ChangeThreadData, ChangeWork } from './change-protocol';
import { enginePorts, hashBeside } from './engine-ports';
import type { LookWork } from './look-protocol';
import { NodeDisk } from './node-disk';
import { openSource } from '../from/open-source';
import { assertNotInUse } from './open-below';
import { answerParent, serverThread } from './server-thread';
import { RENEW_MS } from './writer-lock';

/* A thread that works on games' disks. */

type Asked = Parameters<Perform<ChangeWork, AbortSignal>>[1];

const { looking } = workerData as ChangeThreadData;
const HASHING_MEMORY = { maxYoungGenerationSizeMb: 8, maxOldGenerationSizeMb: 64 };
/** What this thread has written is hashed beside it, while it writes on. */
const hashing = new Crew<LookWork>(
  Math.max(1, Math.min(2, availableParallelism() - 1)),
  serverThread(new URL(looking), HASHING_MEMORY),
);

/** What the engine for changes is told by: bytes and files alone. */
type Telling = Pick<ChangePorts, 'signal' | 'progress'>;

const portsOf = (disk: NodeDisk, { signal, progress }: Telling): ChangePorts =>
  enginePorts(disk, { hash: hashBeside(disk, hashing), signal, progress });

async function change(disk: NodeDisk, act: Act, { signal, progress }: Asked): Promise<void> {
  const sum = new ProgressSum(progress, () => performance.now());
  disk.lock();
  const renewing = setInterval(() => disk.renewLock(), RENEW_MS);
  try {
    // A game that runs would be left half old and half new.
    if (changesGame(act)) await assertNotInUse(disk.gamePath, signal);
    await carryOut(act, portsOf(disk, { signal, progress: sum.add }));
  } finally {
    sum.flush();
    clearInterval(renewing);
    disk.unlock();
  }
}

/** @throws Failure `service/corrupt-piece` where other bytes have come than were announced */
async function putArrived(disk: NodeDisk, name: string, key: ContentKey, asked: Asked): Promise<void> {
  const ports = portsOf(disk, asked);
  await assertNamedRight(name, key);
  const path = arrivingPath(name);
  if ((await notAs([{ path, key }], ports)).length > 0) {
    await disk.remove(path);
    throw new Failure('service/corrupt-piece', { path: name });
  }
  await disk.move(path, contentPath(name));
}

const sha256: Sha256 = async (data) => createHash('sha256').update(data).digest('hex');

/** @throws Failure `request/malformed` where a content would be put down by another name or size than its own */
async function assertNamedRight(name: string, key: ContentKey, size = keySize(key)): Promise<void> {
  if ((await contentName(key, sha256)) !== name || keySize(key) !== size)
    throw new Failure('request/malformed', { what: 'name' });
}

const unpack = unpacking(() => import('@bokuweb/zstd-wasm'));

/** Fetches contents: their bytes go from their sources to the disk, and each piece is proven on the way. */
async function fetchInto(
  disk: NodeDisk,
  { files, frames, own, bytesPerSecond }: Extract<ChangeTask, { do: 'fetch' }>,
  { signal, progress }: Asked,
): Promise<ChangeResults['fetch']> {
  for (const { name, key, size } of files) await assertNamedRight(name, key, size);
  return bring(
    { files, frames },
    {
      folder: arrivals(disk),
      from: disk,
      sha256,
      newHash() {
        const hash = createHash('sha256');
        return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
      },
      open: openSource(own, signal),
      unpack,
      wait: (milliseconds) => setTimeout(milliseconds, undefined, { signal }).catch(() => assertGoing(signal)),
      now: () => performance.now(),
      ...{ progress, signal, bytesPerSecond },
    },
  );
}

/** Tells one state of the journals and references from another: each change of them is a file that is new, gone, or written anew. */
async function stampOf(disk: NodeDisk): Promise<string> {
  const told = await Promise.all([PLACES.journal, PLACES.references].map((place) => disk.list(place)));
  return createHash('sha256').update(JSON.stringify(told)).digest('base64url');
}

async function perform(disk: NodeDisk, task: ChangeTask, asked: Asked): Promise<ChangeResults[ChangeTask['do']]> {
  switch (task.do) {
    case 'change':
      await change(disk, task.act, asked);
      return {};
    case 'state':
      return {
        ...{ current: disk.lastKnown, swaps: disk.isOneVolume, free: (await disk.room()).free },
        open: await listOpen(portsOf(disk, asked)),
        stamp: await stampOf(disk),
      };
    case 'journal':
      return readJournal(portsOf(disk, asked), task.set);
    case 'view':
      return storeView(portsOf(disk, asked), disk.lastKnown);
    case 'mirror':
      return readMirror(portsOf(disk, asked));
    case 'keepsakes':
      return readKeepsakes(portsOf(disk, asked));
    case 'keepsake':
      return readKeepsake(portsOf(disk, asked), task.id);
    case 'sources': {
      const sources = await contentSources(portsOf(disk, asked), disk.lastKnown, task.without);
      return { keys: [...sources.keys()], paths: [...sources.values()] };
    }
    case 'fetch':
      return fetchInto(disk, task, asked);
    case 'list':
      return disk.list(task.below);
    case 'inspect':
      return inspect(task.inspection, portsOf(disk, asked));
    case 'read-only': {
      const flags = await Promise.all(task.paths.map((path) => disk.isReadOnly(path)));
      return task.paths.filter((_, i) => flags[i]);
    }
    case 'arrive':
      // A content comes from its beginning on: what an earlier try has left goes first.
      if (task.offset === 0) await disk.remove(arrivingPath(task.name));
      await disk.writeAt(arrivingPath(task.name), task.offset, task.bytes);
      return {};
    case 'arrived':
      await putArrived(disk, task.name, task.key, asked);
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
