import { createReadStream, existsSync, statSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';

/** Serves a folder on a port of this machine, whole files and ranges, as a static source does. @returns its server */
export function serveFolder(folder, port) {
  const server = createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url, 'http://source').pathname));
    const size = existsSync(path) && statSync(path).isFile() ? statSync(path).size : undefined;
    if (size === undefined) return void response.writeHead(404).end();
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '');
    if (!range) return void createReadStream(path).pipe(response.writeHead(200, { 'Content-Length': size }));
    const [start, end] = [Number(range[1]), Math.min(size - 1, Number(range[2]))];
    const headers = { 'Content-Length': end - start + 1, 'Content-Range': `bytes ${start}-${end}/${size}` };
    createReadStream(path, { start, end }).pipe(response.writeHead(206, headers));
  });
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(server)));
}
