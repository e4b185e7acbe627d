import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { type AddressInfo, createConnection } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bundle } from '../../scripts/bundle.mjs';
import { createApp, type Settings } from '../app';
import { listener } from '../http/listener';
import { FolderThreads } from '../served/folder-threads';

export interface RunningServer {
  /** `http://127.0.0.1:port` */
  readonly base: string;
  /** Sends bytes as they are, and gives what comes back until the connection ends or nothing more comes. */
  raw(text: string | Uint8Array): Promise<string>;
  close(): Promise<void>;
}

const QUIET_MS = 400;

/** The server as it runs, without pages, on a port of its own. */
export async function startServer(settings: Settings): Promise<RunningServer> {
  const folder = mkdtempSync(join(tmpdir(), 'regressum-thread-'));
  const file = join(folder, 'folder-thread.mjs');
  writeFileSync(file, await bundle('server/served/folder-thread.ts', { forNode: true }));
  const threads = new FolderThreads(pathToFileURL(file));
  const server = createServer(listener(createApp(settings, threads)));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
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
        socket.setTimeout(QUIET_MS, end);
        socket.on('data', (data) => parts.push(data));
        socket.on('end', end);
        socket.on('error', (error: NodeJS.ErrnoException) =>
          error.code === 'ECONNRESET' || error.code === 'EPIPE' ? end() : reject(error),
        );
        socket.write(text);
      }),
    async close() {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await threads.close();
      rmSync(folder, { recursive: true });
    },
  };
}
