import { spawn, type SpawnOptions } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { bundle } from '../../scripts/bundle.mjs';
import { SERVER_LIMITS } from '../../scripts/server.mjs';
import type { Settings } from '../app';

/** Whatever the machine is busy with, a connection that is to be closed is closed by then. */
const HANGS_MS = 60_000;

export interface RunningServer {
  /** `http://127.0.0.1:port` */
  readonly base: string;
  /** Sends bytes as they are, which have to ask for the connection to be closed, and gives what comes back until it is. */
  raw(text: string | Uint8Array): Promise<string>;
  /** Bytes of memory in use, and the most that ever were since it started or {@link forgetMost}. */
  memory(): { now: number; most: number };
  forgetMost(): void;
  close(): Promise<void>;
}

/** What the server is made of, by file. */
const MODULES = {
  'serve.mjs': 'server/testing/serve.ts',
  'folder-thread.mjs': 'server/served/folder-thread.ts',
  'change-thread.mjs': 'server/served/change-thread.ts',
};
/** A package that finds a file of its own beside itself. */
const LOADED_LATE = '@bokuweb/zstd-wasm';
const PACKAGES = fileURLToPath(new URL('../../node_modules', import.meta.url));
let modules: Promise<(readonly [name: string, code: string])[]> | undefined;

const bundled = (): Promise<(readonly [string, string])[]> =>
  Promise.all(
    Object.entries(MODULES).map(
      async ([name, source]) => [name, await bundle(source, { forNode: true, external: [LOADED_LATE] })] as const,
    ),
  );

/**
 * The server as it runs, without pages, in a process and on a port of its own.
 * @param options such as the person who runs it
 */
export async function startServer(settings: Settings, options: SpawnOptions = {}): Promise<RunningServer> {
  const folder = mkdtempSync(join(tmpdir(), 'regressum-server-'));
  const file = join(folder, 'serve.mjs');
  modules ??= bundled();
  for (const [name, code] of await modules) writeFileSync(join(folder, name), code);
  symlinkSync(PACKAGES, join(folder, 'node_modules'));
  // Also for whoever runs it as another person.
  chmodSync(folder, 0o755);
  const child = spawn(process.execPath, [...SERVER_LIMITS, file, folder, JSON.stringify(settings)], {
    ...options,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const [line] = (await once(createInterface(child.stdout), 'line')) as [string];
  const port = Number(line);
  const status = (name: string): number =>
    1024 * Number(new RegExp(`${name}:\\s+(\\d+)`).exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))?.[1]);
  return {
    base: `http://127.0.0.1:${port}`,
    raw: (text) =>
      new Promise((resolve, reject) => {
        const socket = createConnection(port, '127.0.0.1');
        const parts: Buffer[] = [];
        const end = (): void => {
          socket.destroy();
          resolve(Buffer.concat(parts).toString('latin1'));
        };
        socket.setTimeout(HANGS_MS, () => reject(new Error('the server keeps the connection open')));
        socket.on('data', (data) => parts.push(data));
        socket.on('end', end);
        socket.on('error', (error: NodeJS.ErrnoException) =>
          error.code === 'ECONNRESET' || error.code === 'EPIPE' ? end() : reject(error),
        );
        socket.write(text);
      }),
    memory: () => ({ now: status('VmRSS'), most: status('VmHWM') }),
    forgetMost: () => writeFileSync(`/proc/${child.pid}/clear_refs`, '5'),
    async close() {
      child.kill('SIGKILL');
      await once(child, 'exit');
      rmSync(folder, { recursive: true });
    },
  };
}
