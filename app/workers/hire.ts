import { DiskPool } from './pool';

const MOST = 2;

/** Workers for disks, as many as help; each starts when it is first needed. */
export function hireDiskPool(): DiskPool {
  const size = Math.max(1, Math.min(MOST, navigator.hardwareConcurrency));
  return new DiskPool(
    size,
    () => new Worker(new URL('./disk-worker.ts', import.meta.url), { type: 'module', name: 'disk' }),
  );
}
