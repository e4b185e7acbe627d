import type { Disk } from '#core/changes';

const CHANGING = new Set(['writeWhole', 'writeAt', 'move', 'copy', 'remove', 'setReadOnly', 'exchange', 'sync']);

/**
 * The same disk, of which each change is announced before it is made.
 * @param about is told the number of the change, from 1 on, and may throw: then it is not made
 */
export function countedDisk(disk: Disk, about: (change: number) => void): Disk {
  let made = 0;
  return new Proxy<Disk>(disk, {
    get(_, name) {
      const value = disk[name as keyof Disk] as unknown;
      if (typeof value !== 'function') return value;
      const call = value.bind(disk) as (...parameters: unknown[]) => Promise<unknown>;
      if (!CHANGING.has(String(name))) return call;
      return async (...parameters: unknown[]) => {
        about((made += 1));
        return call(...parameters);
      };
    },
  });
}
