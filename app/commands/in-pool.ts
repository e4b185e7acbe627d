import { type DiskPool, hireDiskPool } from '~/workers';

/** Has workers do something that is no job's, and ends them afterwards. */
export async function inPool<T>(work: (pool: DiskPool) => Promise<T>): Promise<T> {
  const pool = hireDiskPool();
  try {
    return await work(pool);
  } finally {
    await pool.end();
  }
}
