import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pathToFileURL } from 'node:url';
import { createApp, type Settings } from '../app';
import { listener } from '../http/listener';

/* The server without pages, in a process of its own: node serve.mjs THREADS-FOLDER SETTINGS. Prints its port. */
const [, , folder, settings] = process.argv as [string, string, string, string];
const app = createApp(JSON.parse(settings) as Settings, {
  looking: pathToFileURL(`${folder}/folder-thread.mjs`),
  changing: pathToFileURL(`${folder}/change-thread.mjs`),
});
const server = createServer(listener(app));
server.listen(0, '127.0.0.1', () => console.log((server.address() as AddressInfo).port));
