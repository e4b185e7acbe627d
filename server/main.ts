import { createServer } from 'node:http';
import { delimiter } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ServerBuild } from 'react-router';
import sirv from 'sirv';
// Its types leave out that optional fields may be undefined.
import * as build from 'virtual:react-router/server-build';
import { createApp } from './app';
import { isOwnHost } from './http/guard';
import { listener } from './http/listener';
import { COMMON_HEADERS, SCRIPT_POLICY } from './http/policy';

/*
 * Starts the server: PORT and HOST, and with REGRESSUM_ROOTS folders that may be read by whoever knows REGRESSUM_TOKEN, and
 * changed where REGRESSUM_WRITE is yes, with the stores below REGRESSUM_STORE where that is given. It is bundled to
 * build/server/index.js, with the threads beside it, and the static files in build/client.
 */
const {
  PORT = '4173',
  HOST = '127.0.0.1',
  REGRESSUM_ROOTS = '',
  REGRESSUM_TOKEN,
  REGRESSUM_WRITE,
  REGRESSUM_STORE,
  REGRESSUM_DEMO,
} = process.env;
/** As many as a browser and a downloader or two open; the rest waits. */
const MAX_CONNECTIONS = 512;

const roots = REGRESSUM_ROOTS.split(delimiter).filter((path) => path !== '');
const threads = {
  looking: new URL('folder-thread.js', import.meta.url),
  changing: new URL('change-thread.js', import.meta.url),
};
const settings = { roots, token: REGRESSUM_TOKEN, write: REGRESSUM_WRITE === 'yes', store: REGRESSUM_STORE };
const app = createApp(settings, threads, build as unknown as ServerBuild);
const files = sirv(fileURLToPath(new URL('../client', import.meta.url)), {
  etag: true,
  setHeaders(answer, path) {
    for (const [name, value] of Object.entries(COMMON_HEADERS)) answer.setHeader(name, value);
    if (path.endsWith('.js')) answer.setHeader('Content-Security-Policy', SCRIPT_POLICY);
    // Names of built files tell their contents.
    if (path.startsWith('/assets/')) answer.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
  },
});
const answer = listener(app);
// Whoever opens the demo asks for all of its manifests.
if (REGRESSUM_DEMO === 'yes') void import('./stand-ins/library').then(({ library }) => library.warm());

const server = createServer((message, response) => {
  const isFile = message.method === 'GET' || message.method === 'HEAD';
  // Static files tell nothing, but a name that is bent to this machine gets not even these.
  if (isFile && isOwnHost(message.headers.host)) files(message, response, () => answer(message, response));
  else answer(message, response);
});

server.maxConnections = MAX_CONNECTIONS;
server.on('error', (error) => {
  console.error(`Cannot listen on ${HOST}:${PORT}: ${error.message}`);
  process.exit(1);
});
server.listen(Number(PORT), HOST);
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeAllConnections();
  });
}
