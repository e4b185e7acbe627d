import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pathToFileURL } from 'node:url';
import { createApp, type Settings } from '../app';
import { listener } from '../http/listener';
import { FolderThreads } from '../served/folder-threads';

/* The server without pages, in a process of its own: node serve.mjs THREAD-FILE SETTINGS. Prints its port. */
const [, , thread, settings] = process.argv as [string, string, string, string];
const app = createApp(JSON.parse(settings) as Settings, new FolderThreads(pathToFileURL(thread)));
const server = createServer(listener(app));
server.listen(0, '127.0.0.1', () => console.log((server.address() as AddressInfo).port));
