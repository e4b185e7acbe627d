import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { createApp } from '../app';
import { answerFrom } from './from';
import { isPrivate } from './private-address';

let server: Server;
let answer: (request: IncomingMessage, response: ServerResponse) => void;
let origin: string;
let asked: string[];

beforeEach(async () => {
  asked = [];
  answer = (_, response) => response.end('what is here');
  server = createServer((request, response) => {
    asked.push(`${request.method} ${request.url}`);
    answer(request, response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterEach(() => {
  server.closeAllConnections();
  return new Promise<void>((resolve) => void server.close(() => resolve()));
});

const ask = (path: string, headers: Record<string, string> = {}, method = 'GET'): Promise<Response> =>
  answerFrom(new Request('http://127.0.0.1/x', { headers, method }), path, { silence: 2000 });
const typed = (path: string): string => `/from/typed/http/${origin}${path}`;

async function refused(work: Promise<unknown>): Promise<string> {
  const error = await work.then(
    () => undefined,
    (reason: unknown) => reason,
  );
  if (!isFailure(error)) throw new Error(`no failure: ${String(error)}`);
  return error.code;
}

describe('a request for an address elsewhere', () => {
  it('is passed on with the bytes that are wanted, and its answer is no page of ours', async () => {
    let range: string | undefined;
    answer = (request, response) => {
      range = request.headers.range;
      response.writeHead(206, { 'Content-Range': 'bytes 1-2/4', 'Content-Type': 'text/html', 'Set-Cookie': 'a=b' });
      response.end('ab');
    };
    const response = await ask(typed('/dir/a%20file?x=1'), { Range: 'bytes=1-2', Cookie: 'secret', 'X-Other': 'no' });
    expect([response.status, await response.text(), range]).toEqual([206, 'ab', 'bytes=1-2']);
    expect(asked).toEqual(['GET /dir/a%20file?x=1']);
    expect(response.headers.get('content-type')).toBe('application/octet-stream');
    expect(response.headers.get('content-security-policy')).toContain('sandbox');
    expect(response.headers.get('set-cookie')).toBeNull();
  });

  it('tells what was answered where that is not the thing itself', async () => {
    answer = (_, response) => response.writeHead(404).end();
    await expect(ask(typed('/none'))).rejects.toMatchObject({ code: 'service/failed', facts: { status: 404 } });
    server.closeAllConnections();
    expect(await refused(ask('/from/typed/http/127.0.0.1:1/x'))).toBe('service/unreachable');
    expect(await refused(ask('/from/typed/http/no-such-host.invalid/x'))).toBe('service/unreachable');
  });

  it('follows redirects within the host alone, and not for ever', async () => {
    answer = (request, response) =>
      request.url === '/old' ? response.writeHead(302, { Location: '/new' }).end() : response.end('moved here');
    expect(await (await ask(typed('/old'))).text()).toBe('moved here');
    for (const to of [
      'http://localhost/x',
      'http://127.0.0.2/x',
      'ftp://127.0.0.1/x',
      '//evil.invalid/',
      'http://a:b@127.0.0.1/',
    ]) {
      answer = (_, response) => response.writeHead(301, { Location: to }).end();
      expect([to, await refused(ask(typed('/old')))]).toEqual([to, 'source/redirected']);
    }
    answer = (_, response) => response.writeHead(302, { Location: '/again' }).end();
    expect(await refused(ask(typed('/again')))).toBe('source/redirected');
  });

  it('breaks off what says nothing, more than it announced, or less', async () => {
    answer = () => undefined;
    expect(await refused(ask(typed('/silent')))).toBe('service/unreachable');
    answer = (_, response) => {
      response.writeHead(200, { 'Content-Length': '100' });
      response.write('only this');
    };
    await expect((await ask(typed('/stalls'))).text()).rejects.toThrow();
    answer = (_, response) => {
      response.writeHead(200, { 'Content-Length': '100' });
      response.write('only this');
      setTimeout(() => response.destroy(), 20);
    };
    await expect((await ask(typed('/short'))).text()).rejects.toThrow();
  });

  it.each([
    '/from/typed/ftp/host/x',
    '/from/other/http/host/x',
    '/from/typed/http/',
    '/from/typed/http/user:pass@host/x',
    '/from/typed/http/ho st/x',
    '/from/typed/http/host\\x/y',
    '/from/typed/file//etc/passwd',
  ])('is refused where it names none: %s', async (path) => {
    expect(await refused(ask(path))).toBe('request/malformed');
    expect(asked).toEqual([]);
  });

  it('goes to this machine or a private network only where a person typed it', async () => {
    const port = origin.split(':')[1];
    for (const host of [
      origin,
      `localhost:${port}`,
      `[::1]:${port}`,
      `0.0.0.0:${port}`,
      `127.1:${port}`,
      `[::ffff:127.0.0.1]:${port}`,
      `2130706433:${port}`,
    ]) {
      const code = await refused(ask(`/from/told/http/${host}/x`));
      // Spellings that a parser reads as another host than they are written as are no addresses here at all.
      expect(['source/private', 'request/malformed']).toContain(code);
    }
    expect(asked).toEqual([]);
  });

  it('is answered to who knows the token of the start, and to nobody else', async () => {
    const app = createApp(
      { roots: [], token: 'secret' },
      { looking: new URL('file:///x'), changing: new URL('file:///x') },
    );
    const request = (headers: Record<string, string>): Promise<Response> =>
      app(new Request(`http://127.0.0.1${typed('/x')}`, { headers: { Host: '127.0.0.1', ...headers } }));
    expect((await request({})).status).toBe(403);
    expect((await request({ 'x-regressum-token': 'wrong' })).status).toBe(403);
    expect((await request({ 'x-regressum-token': 'secret', Origin: 'http://evil.invalid' })).status).toBe(403);
    expect(asked).toEqual([]);
    const response = await request({ 'x-regressum-token': 'secret' });
    expect([response.status, await response.text()]).toEqual([200, 'what is here']);
  });
});

it.each([
  ['10.1.2.3', true],
  ['172.31.0.1', true],
  ['172.32.0.1', false],
  ['192.168.1.1', true],
  ['169.254.169.254', true],
  ['100.64.0.1', true],
  ['8.8.8.8', false],
  ['::1', true],
  ['::', true],
  ['fe80::1', true],
  ['fc00::1', true],
  ['::ffff:10.0.0.1', true],
  ['2001:db8::1', true],
  ['2606:4700::1', false],
  ['not an address', true],
  // The first and the last of each network that is closed (RFC 6890), and their neighbours.
  ...(
    [
      ['0.0.0.0', '0.255.255.255', '1.0.0.0'],
      ['10.0.0.0', '10.255.255.255', '11.0.0.0'],
      ['100.64.0.0', '100.127.255.255', '100.128.0.0'],
      ['127.0.0.0', '127.255.255.255', '128.0.0.0'],
      ['169.254.0.0', '169.254.255.255', '169.255.0.0'],
      ['172.16.0.0', '172.31.255.255', '172.15.255.255'],
      ['192.0.0.0', '192.0.0.255', '192.0.1.0'],
      ['192.0.2.0', '192.0.2.255', '192.0.3.0'],
      ['192.168.0.0', '192.168.255.255', '192.169.0.0'],
      ['198.18.0.0', '198.19.255.255', '198.20.0.0'],
      ['198.51.100.0', '198.51.100.255', '198.51.101.0'],
      ['203.0.113.0', '203.0.113.255', '203.0.114.0'],
      ['224.0.0.0', '255.255.255.255', '223.255.255.255'],
    ] as const
  ).flatMap(([first, last, next]): [string, boolean][] => [
    [first, true],
    [last, true],
    [next, false],
  ]),
])('%s lies in a closed network: %s', (address, closed) => {
  expect(isPrivate(address)).toBe(closed);
});
