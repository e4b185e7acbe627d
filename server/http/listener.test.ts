import { once } from 'node:events';
import { createServer } from 'node:http';
import { type AddressInfo, createConnection, type Socket } from 'node:net';
import { afterEach, expect, it } from 'vitest';
import { listener } from './listener';

/** Answers with what was asked for, and reads no body. */
const server = createServer(listener((request) => Promise.resolve(new Response(new URL(request.url).pathname))));
afterEach(() => {
  server.closeAllConnections();
  server.close();
});

async function connect(): Promise<Socket> {
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  return createConnection((server.address() as AddressInfo).port, '127.0.0.1').setEncoding('latin1');
}

async function readUntil(socket: Socket, sign: string): Promise<string> {
  let read = '';
  for await (const part of socket.iterator({ destroyOnReturn: false })) {
    read += part as string;
    if (read.includes(sign)) return read;
  }
  return read;
}

const post = (path: string, ...headers: string[]): string =>
  [`POST ${path} HTTP/1.1`, 'Host: localhost', ...headers, '', ''].join('\r\n');

it('goes on with a connection after an answer that came before the body, which nobody reads', async () => {
  const socket = await connect();
  socket.write(post('/first', 'Content-Length: 2'));
  expect(await readUntil(socket, '/first')).not.toMatch(/Connection: close/i);
  socket.write(`{}${post('/second', 'Content-Length: 0')}`);
  expect(await readUntil(socket, '/second')).toContain('200 OK');
});

it.each(['Content-Length: 1000000', 'Transfer-Encoding: chunked'])(
  'says that it closes the connection instead of taking a body (%s) that nobody reads, and does',
  async (header) => {
    const socket = await connect();
    socket.write(post('/first', header));
    expect(await readUntil(socket, 'never')).toMatch(/^HTTP\/1.1 200 OK[^]*Connection: close/i);
  },
);
