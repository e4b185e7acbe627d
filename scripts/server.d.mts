import type { ChildProcess, SpawnOptions } from 'node:child_process';

/** Node's own arguments for the server. */
export const SERVER_LIMITS: readonly string[];

export function startServer(
  port: number | string,
  env: Readonly<Record<string, string>>,
  options?: SpawnOptions,
): Promise<ChildProcess>;
