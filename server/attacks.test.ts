import { createHash } from 'node:crypto';
import {
  mkdirSync,
  mkdtempSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { type RunningServer, startServer } from './testing/start-server';

/*
 * What was tried against the server, and does not hold any more. It runs in a process of its own, whose memory is watched
 * through all of it.
 */

const TOKEN = 'a-token-of-this-start';
const SECRET = 'the secret that no answer may hold';
const GOOD = { [SERVED_TOKEN_HEADER]: TOKEN };
const MB = 1e6;

const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-attacks-')));
const root = join(work, 'games');
let server: RunningServer;
let idle = 0;

function put(path: string, content: string): void {
  mkdirSync(dirname(join(work, path)), { recursive: true });
  writeFileSync(join(work, path), content);
}

beforeAll(async () => {
  put('games/ferry/tables/a.csv', 'a');
  put('secret/key', SECRET);
  put('secret/tables/a.csv', SECRET);
  symlinkSync(join(work, 'secret'), join(root, 'ferry/way-out'));
  symlinkSync(join(work, 'secret/key'), join(root, 'ferry/key'));
  put('games/ferry/huge', '');
  truncateSync(join(root, 'ferry/huge'), 5 * 2 ** 30);
  server = await startServer({ roots: [root], token: TOKEN });
  // The stand-ins make their manifests first; what is held against the limit is what comes after.
  await fetch(`${server.base}/stand-ins/depots/index.json`);
  idle = server.memory().now;
  server.forgetMost();
});

afterAll(async () => {
  await server.close();
  rmSync(work, { recursive: true });
});

const ask = (path: string, init: RequestInit = {}): Promise<Response> =>
  fetch(server.base + path, { ...init, headers: { ...GOOD, ...init.headers } });
const served = (what: string, query: Record<string, string>, init?: RequestInit): Promise<Response> =>
  ask(`/served/${what}?${new URLSearchParams({ root, ...query })}`, init);
const post = (path: string, body: string | object): Promise<Response> =>
  ask(path, { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body) });

/** A refusal by name: an answer that blames the request, says why, and tells nothing of the inside. */
async function refused(response: Response): Promise<string> {
  const text = await response.text();
  expect([response.status >= 400 && response.status < 500, text]).toEqual([true, text]);
  expect(text).not.toMatch(/node:|at .*\.(ts|js|mjs):|the secret/);
  const { code } = JSON.parse(text) as { code: string };
  expect(code).toMatch(/^[a-z-]+\/[a-z-]+$/);
  return code;
}

const OUT = [
  '../secret/key',
  '../../secret/key',
  'tables/../../../secret/key',
  './../../secret/key',
  '/etc/passwd',
  '//etc/passwd',
  'tables//a.csv',
  'tables/./a.csv',
  '..\\..\\secret\\key',
  'C:\\secret\\key',
  'C:/secret/key',
  '..%2f..%2fsecret%2fkey',
  '%2e%2e/%2e%2e/secret/key',
  '..%c0%af..%c0%afsecret/key',
  'tables/a.csv\0',
  'tables/a.csv\0.png',
  '\0',
  '..',
  '.',
  '...',
  'key',
  'way-out/key',
  'way-out/tables/a.csv',
  'way-out',
  '~/key',
  '$HOME/key',
  'file:///etc/passwd',
  '/proc/self/environ',
  '../../../../../../../../proc/self/environ',
  `${'../'.repeat(200)}etc/passwd`,
  'a'.repeat(5000),
  'tables/a.csv/',
  'tables/a.csv/..',
  'tables/a.csv/b',
  'tables',
  '\u202ekey',
  'ＡＢＣ/../../secret',
];

describe('paths that lead out or nowhere', () => {
  it.each(OUT)('as a file: %j', async (path) => {
    expect(await refused(await served('file', { folder: 'ferry', path }))).toMatch(/^(served|folder|request)\//);
  });

  it.each(OUT.filter((path) => path !== 'tables'))('as a folder: %j', async (folder) => {
    expect(await refused(await served('list', { folder: `ferry/${folder}` }))).toMatch(/^(served|folder|request)\//);
  });

  it.each(OUT)('to be hashed: %j', async (path) => {
    const files = [{ path, size: 1 }];
    const response = await post('/served/hash', { root, folder: 'ferry', files });
    const { code } = JSON.parse(await response.text()) as { code?: string };
    expect(code).toMatch(/^(served|folder)\//);
  });

  it.each(['/', work, `${root}/`, `${root}/ferry`, `${root}/../secret`, '', '.', '..', '\0', join(work, 'secret')])(
    'from the root %j',
    async (other) => {
      const query = new URLSearchParams({ root: other, folder: '', path: 'key' });
      expect(await refused(await ask(`/served/file?${query}`))).toBe('served/outside');
      expect(await refused(await ask(`/served/list?${query}`))).toBe('served/outside');
    },
  );
});

describe('requests that are none', () => {
  const line = (text: string): string =>
    `${text}\r\nHost: 127.0.0.1\r\nConnection: close\r\n${SERVED_TOKEN_HEADER}: ${TOKEN}\r\n\r\n`;
  it.each<[string, RegExp]>([
    ['GET /stand-ins/depots/%zz HTTP/1.1', /^HTTP\/1.1 400/],
    ['GET /stand-ins/depots/%c0%af HTTP/1.1', /^HTTP\/1.1 400/],
    ['GET /%ff/survey HTTP/1.1', /^HTTP\/1.1 400/],
    ['GET http://[/ HTTP/1.1', /^HTTP\/1.1 4/],
    ['GET //evil.example/served/roots HTTP/1.1', /^HTTP\/1.1 4/],
    ['GET /served/../../etc/passwd HTTP/1.1', /^HTTP\/1.1 4/],
    ['GET /served/nothing HTTP/1.1', /^HTTP\/1.1 404/],
    ['PUT /served/file HTTP/1.1', /^HTTP\/1.1 405[^]*Allow: GET, HEAD/i],
    ['DELETE /served/list HTTP/1.1', /^HTTP\/1.1 405/],
    ['GET /served/hash HTTP/1.1', /^HTTP\/1.1 405[^]*Allow: POST/i],
    ['PATCH /stand-ins/depots/index.json HTTP/1.1', /^HTTP\/1.1 405/],
    ['GET /stand-ins/depots/session HTTP/1.1', /^HTTP\/1.1 405/],
    ['GET /stand-ins/storefront/pack HTTP/1.1', /^HTTP\/1.1 405/],
    ['DELETE /stand-ins/storefront/first-install HTTP/1.1', /^HTTP\/1.1 405/],
    ['PUT /stand-ins/catalogue/index.json HTTP/1.1', /^HTTP\/1.1 405/],
    ['GET /stand-ins/game/start HTTP/1.1', /^HTTP\/1.1 405/],
    ['OPTIONS /stand-ins/panel/state HTTP/1.1', /^HTTP\/1.1 405/],
    ['POST / HTTP/1.1', /^HTTP\/1.1 405/],
    ['TRACE / HTTP/1.1', /^HTTP\/1.1 4/],
    ['HELLO', /^HTTP\/1.1 400/],
    ['GET / HTTP/9.9', /^HTTP\/1.1 (400|505)/],
  ])('%s', async (request, answer) => {
    expect(await server.raw(line(request))).toMatch(answer);
  });

  it.each([
    'Host: evil.example',
    'Host: 127.0.0.1.evil.example',
    'Host: 127.0.0.1@evil.example',
    'Host: 0.0.0.0',
    'Host: [::]',
    'Host: 127.0.0.2',
    'Host:',
    'Host: localhost.\r\nX: y',
    'Host: 127.0.0.1\r\nOrigin: http://evil.example',
    'Host: 127.0.0.1\r\nOrigin: null',
    'Host: 127.0.0.1\r\nOrigin: https://127.0.0.1',
    'Host: 127.0.0.1\r\nOrigin: http://127.0.0.1:1',
    'Host: 127.0.0.1\r\nSec-Fetch-Site: cross-site',
    'Host: 127.0.0.1\r\nSec-Fetch-Site: same-site',
  ])('of somebody else: %j', async (headers) => {
    for (const path of ['/served/roots', '/stand-ins/panel/state', '/stand-ins/depots/index.json']) {
      const answer = await server.raw(
        `GET ${path} HTTP/1.1\r\nConnection: close\r\n${headers}\r\n${SERVED_TOKEN_HEADER}: ${TOKEN}\r\n\r\n`,
      );
      expect(answer).toMatch(/^HTTP\/1.1 40[03]/);
    }
  });

  it.each([
    '',
    'x',
    TOKEN.toUpperCase(),
    `${TOKEN} x`,
    `${TOKEN}${TOKEN}`,
    'ä'.repeat(TOKEN.length),
    'é-token-of-this-start',
  ])('with the token %j', async (token) => {
    const answer = await server.raw(
      Buffer.from(
        `GET /served/roots HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n${SERVED_TOKEN_HEADER}: ${token}\r\n\r\n`,
        'utf8',
      ),
    );
    expect(answer).toMatch(/^HTTP\/1.1 403/);
  });
});

const deep = (open: string, close: string): string => open.repeat(100_000) + close.repeat(100_000);

describe('bodies', () => {
  it.each<[string, string, string]>([
    ['/served/hash', '', 'json/malformed'],
    ['/served/hash', '{', 'json/malformed'],
    ['/served/hash', 'null', 'json/does-not-fit'],
    ['/served/hash', deep('[', ']'), 'json/malformed'],
    ['/served/hash', deep('{"a":', '}'), 'json/malformed'],
    [
      '/served/hash',
      `{"root":${JSON.stringify('x')},"folder":"","files":[${'1,'.repeat(900_000)}1]}`,
      'json/does-not-fit',
    ],
    [
      '/served/hash',
      JSON.stringify({ root: 'x', folder: '', files: Array(1001).fill({ path: 'a', size: 1 }) }),
      'json/does-not-fit',
    ],
    ['/served/hash', JSON.stringify({ root: 'x', folder: '', files: [{ path: 'a', size: -1 }] }), 'json/does-not-fit'],
    [
      '/served/hash',
      JSON.stringify({ root: 'x', folder: '', files: [{ path: 'a', size: 1, pieceSize: 3 }] }),
      'json/does-not-fit',
    ],
    [
      '/served/hash',
      JSON.stringify({ root: 'x', folder: '', files: [{ path: 'a', size: 1, span: { first: -1, end: 2 } }] }),
      'json/does-not-fit',
    ],
    ['/stand-ins/depots/session', '{"name":1}', 'json/does-not-fit'],
    ['/stand-ins/depots/session', JSON.stringify({ name: 'a'.repeat(101), passphrase: '' }), 'json/does-not-fit'],
    ['/stand-ins/depots/session', 'x'.repeat(5000), 'request/too-long'],
    ['/stand-ins/panel/act', '{"do":"everything"}', 'json/does-not-fit'],
    [
      '/stand-ins/panel/act',
      JSON.stringify({ do: 'set-faults', faults: { delayMs: 1e9, failEvery: 0, corruptEvery: 0 } }),
      'json/does-not-fit',
    ],
    ['/stand-ins/storefront/look', '[]', 'json/does-not-fit'],
    ['/stand-ins/storefront/look', `{"game":"${'x'.repeat(70_000)}"}`, 'request/too-long'],
    ['/stand-ins/storefront/pack', JSON.stringify({ hrefs: ['/etc/passwd'] }), 'json/does-not-fit'],
    ['/stand-ins/storefront/pack', JSON.stringify({ hrefs: ['/stand-ins/storefront/files/%zz'] }), 'request/malformed'],
    ['/stand-ins/storefront/pack', JSON.stringify({ hrefs: ['/stand-ins/storefront/pack'] }), 'demo/unknown-file'],
    [
      '/stand-ins/storefront/pack',
      JSON.stringify({ hrefs: ['/stand-ins/storefront/../panel/state'] }),
      'demo/unknown-file',
    ],
    [
      '/stand-ins/storefront/pack',
      JSON.stringify({ hrefs: Array(65).fill('/stand-ins/storefront/player/a') }),
      'json/does-not-fit',
    ],
    ['/stand-ins/game/start', JSON.stringify({ files: [], loadOrder: 'x'.repeat(1_000_001) }), 'json/does-not-fit'],
    ['/stand-ins/game/start', `{"files":[${'0,'.repeat(900_000)}0],"loadOrder":""}`, 'json/does-not-fit'],
  ])('to %s: %#', async (path, body, code) => {
    expect(await refused(await post(path, body))).toBe(code);
  });

  it('that are not UTF-8 are refused', async () => {
    const body = Uint8Array.of(0x22, 0xff, 0x22);
    const response = await ask('/served/hash', { method: 'POST', body });
    expect(await refused(response)).toBe('list/encoding');
  });

  it('are read no further than their limit, told or not', async () => {
    const head = `POST /served/hash HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n${SERVED_TOKEN_HEADER}: ${TOKEN}\r\n`;
    expect(await server.raw(`${head}Content-Length: 200000000\r\n\r\n[`)).toMatch(/^HTTP\/1.1 413/);
    const chunk = `100000\r\n${' '.repeat(0x100000)}\r\n`;
    expect(await server.raw(`${head}Transfer-Encoding: chunked\r\n\r\n${chunk.repeat(12)}`)).toMatch(/^HTTP\/1.1 413/);
  });

  it('of a start of the game with many files and lines are answered', async () => {
    const files = Array.from({ length: 10_000 }, (_, i) => ({ path: `mods/m${i}/a`, key: `1:${i}` }));
    const loadOrder = Array.from({ length: 120_000 }, (_, i) => `m${i}`).join('\n');
    expect((await post('/stand-ins/game/start', { files, loadOrder })).status).toBe(200);
  });
});

describe('large answers', () => {
  it.each(['bytes=0-', undefined, 'bytes=1-4294967296'])(
    'in the range %j are streamed, many at once',
    async (range) => {
      const under = Array.from({ length: 12 }, async () => {
        const response = await served(
          'file',
          { folder: 'ferry', path: 'huge' },
          range ? { headers: { Range: range } } : {},
        );
        expect(response.status).toBe(range ? 206 : 200);
        expect(Number(response.headers.get('Content-Length'))).toBeGreaterThan(4e9);
        const reader = response.body!.getReader();
        let bytes = 0;
        while (bytes < 4 * MB) bytes += (await reader.read()).value!.length;
        await reader.cancel();
      });
      await Promise.all(under);
    },
  );

  it('are told by HEAD, and their end is where it is', async () => {
    const head = await served('file', { folder: 'ferry', path: 'huge' }, { method: 'HEAD' });
    expect(head.headers.get('Content-Length')).toBe(String(5 * 2 ** 30));
    const end = await served('file', { folder: 'ferry', path: 'huge' }, { headers: { Range: 'bytes=-3' } });
    expect((await end.arrayBuffer()).byteLength).toBe(3);
  });

  it('that are left unread leave nothing open', async () => {
    for (let i = 0; i < 100; i++) {
      const stop = new AbortController();
      const response = await served('list', { folder: 'ferry' }, { signal: stop.signal });
      stop.abort();
      await response.text().catch(() => undefined);
    }
    // More lists than can be under way have come and gone.
    expect((await served('list', { folder: 'ferry' })).status).toBe(200);
  });
});

describe('the stand-ins', () => {
  it.each([
    'depots/manifests/9.9.9/core.meta4',
    'depots/manifests/2.9.4/nothing.meta4',
    'depots/manifests/__proto__/constructor.meta4',
    'depots/manifests',
    'depots/manifests/2.9.4',
    'depots/nothing',
    'depots/',
    'catalogue/files',
    'catalogue/files/towline',
    'catalogue/files/towline/1.14',
    'catalogue/files/towline/1.14/mods',
    'catalogue/files/../../etc/passwd',
    'catalogue/files/constructor/1/a',
    'storefront/files/2.9.4/core',
    'storefront/files/2.9.4/core/tables',
    'storefront/player',
    'storefront/player/saves',
    'storefront/nothing',
    'nothing/at-all',
  ])('have no %s', async (path) => {
    expect(await refused(await ask(`/stand-ins/${path}`))).toBe('demo/unknown-file');
  });

  it('remember nothing of what does not exist', async () => {
    const before = server.memory().now;
    for (let i = 0; i < 300; i++) await (await ask(`/stand-ins/depots/manifests/9.${i}/core-${i}.meta4`)).text();
    expect(server.memory().now - before).toBeLessThan(60 * MB);
  });

  const world = (n: number): Record<string, string> => ({
    Cookie: `regressum-world=00000000-0000-4000-8000-${String(n).padStart(12, '0')}`,
  });
  const session = (n: number, body: object): Promise<Response> =>
    ask('/stand-ins/depots/session', { method: 'POST', headers: world(n), body: JSON.stringify(body) });
  const account = { name: 'ferryhand', passphrase: 'lantern-over-water' };

  it('let nobody try codes for long', async () => {
    await session(1, account);
    const answers = [];
    for (let i = 0; i < 40; i++) answers.push((await session(1, { ...account, code: `x${i}` })).status);
    expect(answers.slice(0, 5)).toEqual([403, 403, 403, 403, 403]);
    expect(answers.at(-1)).toBe(429);
    expect((await session(1, account)).status).toBe(429);
  });

  it.each([
    '/stand-ins/depots/files/2.9.4/program/bin/ferrywake.prog',
    '/stand-ins/catalogue/files/towline/1.14/mods/towline/mod.json',
    '/stand-ins/depots/manifests/2.9.4/core.meta4',
    '/stand-ins/storefront/files/2.9.4/core/tables/vessels.csv',
  ])('tell the length of %s before they send it', async (path) => {
    const token = await signIn(3);
    const headers = { ...world(3), Authorization: `Bearer ${token}` };
    const whole = await ask(path, { headers });
    const length = Number(whole.headers.get('Content-Length'));
    expect([whole.status, whole.headers.get('Transfer-Encoding')]).toEqual([200, null]);
    expect((await whole.arrayBuffer()).byteLength).toBe(length);
    const part = await ask(path, { headers: { ...headers, Range: 'bytes=1-3' } });
    expect([part.status, part.headers.get('Content-Length'), await part.text().then((text) => text.length)]).toEqual([
      206,
      '3',
      3,
    ]);
    const head = await ask(path, { method: 'HEAD', headers });
    expect(head.headers.get('Content-Length')).toBe(String(length));
  });

  it('keep a person signed in, however many others come', async () => {
    await session(2, account);
    const panel = (await (await ask('/stand-ins/panel/state', { headers: world(2) })).json()) as {
      oneTimeCode: string;
    };
    const signedIn = await session(2, { ...account, code: panel.oneTimeCode });
    const { token } = (await signedIn.json()) as { token: string };
    for (let n = 1000; n < 1300; n++) {
      const act = { method: 'POST', headers: world(n), body: '{"do":"release-patch"}' };
      await (await ask('/stand-ins/panel/act', act)).text();
    }
    const file = '/stand-ins/depots/files/2.9.4/program/bin/ferrywake.prog';
    const response = await ask(file, { headers: { ...world(2), Authorization: `Bearer ${token}` } });
    expect(response.status).toBe(200);
    await response.body?.cancel();
  });

  async function signIn(n: number): Promise<string> {
    await session(n, account);
    const panel = (await (await ask('/stand-ins/panel/state', { headers: world(n) })).json()) as {
      oneTimeCode: string;
    };
    return ((await (await session(n, { ...account, code: panel.oneTimeCode })).json()) as { token: string }).token;
  }
});

describe('files and folders that are exchanged for links meanwhile', () => {
  const secretDigest = createHash('sha256').update(SECRET).digest('hex');

  /** Puts a link to the secret in the place of something, and back, for as long as `work` takes. */
  async function exchanging(place: string, target: string, run: () => Promise<void>): Promise<void> {
    let on = true;
    const kept = `${place}.kept`;
    const exchange = async (): Promise<void> => {
      while (on) {
        renameSync(place, kept);
        symlinkSync(target, place);
        await new Promise((resolve) => setImmediate(resolve));
        unlinkSync(place);
        renameSync(kept, place);
        await new Promise((resolve) => setImmediate(resolve));
      }
    };
    const exchanged = exchange();
    try {
      await run();
    } finally {
      on = false;
      await exchanged;
    }
  }

  const hashAll = (path: string): Promise<Response> =>
    post('/served/hash', { root, folder: 'raced', files: Array.from({ length: 8 }, () => ({ path, size: 1 })) });

  it.each<[string, string, string, () => Promise<Response>]>([
    ['a file, read', 'tables/a.csv', 'secret/key', () => served('file', { folder: 'raced', path: 'tables/a.csv' })],
    ['a file, hashed', 'tables/a.csv', 'secret/key', () => hashAll('tables/a.csv')],
    ['its folder, read', 'tables', 'secret/tables', () => served('file', { folder: 'raced', path: 'tables/a.csv' })],
    ['its folder, hashed', 'tables', 'secret/tables', () => hashAll('tables/a.csv')],
    ['its folder, listed', 'tables', 'secret', () => served('list', { folder: 'raced' })],
    ['the root, read', '', 'secret', () => served('file', { folder: 'raced', path: 'key' })],
    ['the root, listed', '', 'secret', () => served('list', { folder: '' })],
  ])('%s: 300 requests', async (_, place, target, request) => {
    put('games/raced/tables/a.csv', 'a');
    let right = 0;
    await exchanging(place === '' ? root : join(root, 'raced', place), join(work, target), async () => {
      for (let i = 0; i < 300; i += 10) {
        const answers = await Promise.all(Array.from({ length: 10 }, async () => (await request()).text()));
        for (const text of answers) {
          expect(text).not.toContain(SECRET);
          expect(text).not.toContain(secretDigest);
          expect(text).not.toMatch(/key","size"/);
          if (!text.includes('"code"')) right += 1;
        }
      }
    });
    // Some came through to what is served; else nothing was raced.
    if (place !== '') expect(right).toBeGreaterThan(0);
  });
});

it('all of it took no more memory than it may', () => {
  expect((server.memory().most - idle) / MB).toBeLessThan(150);
});
