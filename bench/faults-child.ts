import { readFileSync } from 'node:fs';
import { type ChangeSet, type Disk, letGo, openSet, run } from '#core/changes';
import { isFailure } from '#core/failure';
import { holdRoot } from '../server/served/below';
import { enginePorts } from '../server/served/engine-ports';
import { NodeDisk, STORE_NAME } from '../server/served/node-disk';

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

function counted(disk: NodeDisk, { cut, refuse }: Order): Disk {
  let made = 0;
  return new Proxy<Disk>(disk, {
    get(_, name) {
      const value = (disk as Disk)[name as keyof Disk] as unknown;
      if (typeof value !== 'function') return value;
      const call = value.bind(disk) as (...parameters: unknown[]) => Promise<unknown>;
      if (!CHANGING.has(String(name))) return call;
      return async (...parameters: unknown[]) => {
        made += 1;
        if (made === cut) {
          // Sometimes in the middle of the call, by a signal that arrives while it works.
          if (made % 2 === 0) process.kill(process.pid, 'SIGKILL');
          else setImmediate(() => process.kill(process.pid, 'SIGKILL'));
        }
        if (refuse !== undefined && made >= refuse) throw new Error('the disk refuses');
        return call(...parameters);
      };
    },
  });
}

export async function perform(order: Order): Promise<string> {
  const root = holdRoot(order.root);
  const inner = new NodeDisk({ game: root, folder: '', store: root, storeFolder: STORE_NAME });
  const ports = enginePorts(counted(inner, order), inner, new AbortController().signal);
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
