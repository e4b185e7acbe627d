import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { type ChangeSet, type Disk, letGo, openSet, run, STORE_FOLDER } from '#core/changes';
import { isFailure } from '#core/failure';
import { holdRoot } from '../server/served/below';
import { enginePorts, hashHere } from '../server/served/engine-ports';
import { NodeDisk } from '../server/served/node-disk';
import { countedDisk } from './counted-disk';

/* Runs a change set on a folder as the server's thread does, and kills itself when it was told to: bench/faults. */

export interface Order {
  readonly root: string;
  readonly set: ChangeSet;
  readonly way: 'on' | 'back' | 'let-go';
  /** Kills the process before so many-th change of the disk, in the middle of things. */
  readonly cut?: number;
  /** Refuses this change of the disk instead, and those after it. */
  readonly refuse?: number;
}

const KILLER = `
  const { workerData } = require('node:worker_threads');
  Atomics.wait(workerData, 0, 0);
  const until = performance.now() + Atomics.load(workerData, 0) / 10;
  while (performance.now() < until);
  process.kill(process.pid, 'SIGKILL');
`;

/** Kills the process some tenths of a millisecond after it is asked to, whatever is being done by then. */
function killer(): (tenths: number) => void {
  const asked = new Int32Array(new SharedArrayBuffer(4));
  new Worker(KILLER, { eval: true, workerData: asked }).unref();
  return (tenths) => {
    Atomics.store(asked, 0, tenths);
    Atomics.notify(asked, 0);
  };
}

function counted(disk: NodeDisk, { cut, refuse }: Order): Disk {
  const killSoon = cut !== undefined && cut % 2 === 1 ? killer() : undefined;
  return countedDisk(disk, (change) => {
    if (change === cut) {
      // Between two calls, or in the middle of one, by another thread.
      if (killSoon) killSoon(1 + (change % 9));
      else process.kill(process.pid, 'SIGKILL');
    }
    if (refuse !== undefined && change >= refuse) throw new Error('the disk refuses');
  });
}

export async function perform(order: Order): Promise<string> {
  const root = holdRoot(order.root);
  const inner = new NodeDisk({
    game: root,
    folder: '',
    store: root,
    storeFolder: STORE_FOLDER,
    sharedFolder: STORE_FOLDER,
  });
  const ports = enginePorts(counted(inner, order), {
    hash: hashHere(inner),
    signal: new AbortController().signal,
    progress: () => undefined,
  });
  try {
    inner.lock();
    if (order.way === 'let-go') await letGo(order.set.id, ports);
    else {
      if (order.way === 'on') await openSet(order.set, ports);
      await run(order.set.id, order.way, ports);
    }
    inner.unlock();
    return 'ended';
  } catch (error) {
    inner.unlock();
    return isFailure(error) ? error.code : String(error);
  }
}

if (process.argv[2]) {
  console.log(await perform(JSON.parse(readFileSync(process.argv[2], 'utf8')) as Order));
  process.exit();
}
