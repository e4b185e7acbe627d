import { Crew } from '#core/calls';
import { browserThread } from './browser-thread';
import type { DiskTask, DiskWork } from './protocol';

const MOST = 2;

/** Workers for disks. */
export type DiskPool = Crew<DiskWork>;

/** A server does the work in threads of its own: one worker here is enough to pass on what it says. */
const isServed = (task: DiskTask): boolean => 'place' in task && task.place.kind === 'served';

/** As many as help; each starts when it is first needed. */
export function hireDiskPool(): DiskPool {
  const size = Math.max(1, Math.min(MOST, navigator.hardwareConcurrency));
  return new Crew(
    size,
    browserThread(() => new Worker(new URL('./disk-worker.ts', import.meta.url), { type: 'module', name: 'disk' })),
    (task) => (isServed(task) ? 1 : size),
  );
}
