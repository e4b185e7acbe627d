import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { type ChangeSet, type Disk, letGo, openSet, run, STORE_FOLDER } from '#core/changes';
import { isFailure } from '#core/failure';
import { holdRoot } from '../server/served/below';
import { enginePorts, hashHere } from '../server/served/engine-ports';
import { NodeDisk } from '../server/served/node-disk';

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

const CHANGING = new Set(['writeWhole', 'writeAt', 'move', 'copy', 'remove', 'setReadOnly', 'exchange', 'sync']);

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
  let made = 0;
  const killSoon = cut !== undefined && cut % 2 === 1 ? killer() : undefined;
  return new Proxy<Disk>(disk, {
    get(_, name) {
      const value = (disk as Disk)[name as keyof Disk] as unknown;
      if (typeof value !== 'function') return value;
      const call = value.bind(disk) as (...parameters: unknown[]) => Promise<unknown>;
      if (!CHANGING.has(String(name))) return call;
      return async (...parameters: unknown[]) => {
        made += 1;
        if (made === cut) {
          // Between two calls, or in the middle of one, by another thread.
          if (killSoon) killSoon(1 + (made % 9));
          else process.kill(process.pid, 'SIGKILL');
        }
        if (refuse !== undefined && made >= refuse) throw new Error('the disk refuses');
        return call(...parameters);
      };
    },
  });
}

export async function perform(order: Order): Promise<string> {
  const root = holdRoot(order.root);
  const inner = new NodeDisk({ game: root, folder: '', store: root, storeFolder: STORE_FOLDER });
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
