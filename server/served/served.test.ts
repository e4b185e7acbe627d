import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, symlinkSync, writeFileSync, utimesSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { READER_CONTRACT } from '../../core/testing/folder-contract';
import { servedFolder } from '~/folders/served-folder';
import { type RunningServer, startServer } from '../testing/start-server';

const TOKEN = 'a-token-of-this-start';
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-served-')));
const root = join(work, 'games');
let server: RunningServer;

function put(path: string, content: string | Uint8Array): void {
  const place = join(work, path);
  mkdirSync(dirname(place), { recursive: true });
  writeFileSync(place, content);
}

beforeAll(async () => {
  put('games/ferry/tables/a.csv', 'a');
  put('games-of-others/key', 'secret');
  put('secret/key', 'secret');
  symlinkSync(join(work, 'secret'), join(root, 'ferry/way-out'));
  symlinkSync(join(work, 'secret/key'), join(root, 'ferry/key'));
  symlinkSync(join(root, 'ferry/tables'), join(root, 'ferry/other-tables'));
  server = await startServer({ roots: [root, join(work, 'nowhere')], token: TOKEN });
});
afterAll(async () => {
  await server.close();
  rmSync(work, { recursive: true });
});

type Headers = Record<string, string>;
const GOOD = { [SERVED_TOKEN_HEADER]: TOKEN };

const ask = (query: string, headers: Headers = GOOD, init: RequestInit = {}): Promise<Response> =>
  fetch(`${server.base}/served/${query}`, { ...init, headers });

const refusal = async (response: Promise<Response>): Promise<unknown> => {
  const answer = await response;
  return [answer.status, ((await answer.json()) as { code: string }).code];
};

/** A request with headers that no program may set by itself. */
async function refusalOfRaw(headers: string): Promise<string | undefined> {
  const answer = await server.raw(
    `GET /served/roots HTTP/1.1\r\nConnection: close\r\n${SERVED_TOKEN_HEADER}: ${TOKEN}\r\n${headers}\r\n\r\n`,
  );
  return `${/^HTTP\/1.1 (\d+)/.exec(answer)?.[1]} ${/"code":"([^"]+)"/.exec(answer)?.[1]}`;
}

describe('a served folder is for nobody', () => {
  it.each<[string, Headers]>([
    ['without the token', {}],
    ['with an old token', { [SERVED_TOKEN_HEADER]: 'a-token-of-that-start' }],
    ['with a token of the same length in another script', { [SERVED_TOKEN_HEADER]: 'ä-token-of-this-start' }],
  ])('%s', async (_, headers) => {
    expect(await refusal(ask('roots', headers))).toEqual([403, 'served/refused']);
  });

  it.each([
    ['by a name that is not this machine’s', 'Host: games.example:4173'],
    ['without a name', 'Host:'],
    ['from a foreign origin', 'Host: 127.0.0.1\r\nOrigin: http://games.example'],
    ['from no origin that it tells', 'Host: 127.0.0.1\r\nOrigin: null'],
    ['from another port of this machine', 'Host: 127.0.0.1:4173\r\nOrigin: http://127.0.0.1:9999'],
    ['from another site by what the browser says', 'Host: 127.0.0.1\r\nSec-Fetch-Site: cross-site'],
  ])('%s', async (_, headers) => {
    expect(await refusalOfRaw(headers)).toBe('403 request/foreign');
  });

  it('when none was named at the start', async () => {
    const none = await startServer({ roots: [], token: TOKEN });
    const response = fetch(`${none.base}/served/roots`, { headers: GOOD });
    expect(await refusal(response)).toEqual([404, 'served/off']);
    await none.close();
  });
});

describe('nothing outside of the roots is served', () => {
  it.each([
    ['by ..', 'ferry', '../../secret/key'],
    ['by .. in the folder', '../secret', 'key'],
    ['by .. that is encoded twice', 'ferry', '..%2f..%2fsecret%2fkey'],
    ['by a backslash', 'ferry', '..\\..\\secret\\key'],
    ['by an absolute path', 'ferry', '/etc/passwd'],
    ['through a link to a folder', 'ferry', 'way-out/key'],
    ['through a link to a file', 'ferry', 'key'],
    ['through a link that stays inside', 'ferry', 'other-tables/a.csv'],
    ['with a zero in the name', 'ferry', 'tables/a.csv\0'],
  ])('%s', async (_, folder, path) => {
    const query = new URLSearchParams({ root, folder, path });
    const [status, code] = (await refusal(ask(`file?${query}`))) as [number, string];
    expect(['served/outside', 'folder/not-found']).toContain(code);
    expect([403, 404]).toContain(status);
  });

  it.each(['secret', 'games-of-others', 'nowhere', ''])('from %j, which is no root', async (other) => {
    const query = new URLSearchParams({ root: join(work, other), folder: '', path: 'key' });
    expect(await refusal(ask(`file?${query}`))).toEqual([403, 'served/outside']);
  });

  it('by hashing, and a link in the list is none of its files', async () => {
    const body = JSON.stringify({
      ...{ root, folder: 'ferry' },
      files: ['tables/a.csv', 'key', 'way-out/key', 'gone/x'].map((path) => ({ path, size: 1 })),
    });
    const text = await (await ask('hash', GOOD, { method: 'POST', body })).text();
    const outcomes = text
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { index: number });
    expect(outcomes.toSorted((a, b) => a.index - b.index)).toMatchObject([
      { index: 0, size: 1 },
      { index: 1, code: 'served/outside' },
      { index: 2, code: 'served/outside' },
      { index: 3, code: 'folder/not-found' },
    ]);
    const listed = await (await ask(`list?${new URLSearchParams({ root, folder: 'ferry' })}`)).text();
    expect(listed.trim().split('\n')).toHaveLength(1);
  });
});

it('folders inside one another are listed as deep as may be, and the first that is too deep is named', async () => {
  const deep = (levels: number): string => Array.from({ length: levels }, (_, i) => `d${i}`).join('/');
  put(`games/deep/${deep(64)}/last`, 'a');
  put(`games/deep/${deep(66)}/beyond`, 'a');
  put('games/deep/odd~name.txt', 'abc');
  utimesSync(join(root, 'deep/odd~name.txt'), 1, 1234.5678);
  const text = await (await ask(`list?${new URLSearchParams({ root, folder: 'deep' })}`)).text();
  const listed = text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { path: string })
    .toSorted((a, b) => (a.path < b.path ? -1 : 1));
  expect(listed).toMatchObject([
    { path: `${deep(64)}/d64`, code: 'folder/too-deep' },
    { path: `${deep(64)}/last`, size: 1 },
    { path: 'odd~name.txt', size: 3, modified: 1_234_568 },
  ]);
});

describe('what is no plain file', () => {
  beforeAll(() => {
    mkdirSync(join(root, 'odd'));
    execFileSync('mkfifo', [join(root, 'odd/pipe')]);
    put('games/odd/a', 'a');
  });

  it('is neither listed nor opened nor waited for', async () => {
    const query = new URLSearchParams({ root, folder: 'odd', path: 'pipe' });
    expect(await refusal(ask(`file?${query}`))).toEqual([400, 'folder/not-a-file']);
    const folder = servedFolder({ kind: 'served', root, folder: 'odd', token: TOKEN });
    vi.stubGlobal('fetch', pageFetch);
    expect((await folder.list()).map(({ path }) => path)).toEqual(['a']);
    const files = ['pipe', 'a'].map((path) => ({ path, size: 1 }));
    const outcomes = await folder.hash(files, new AbortController().signal, () => undefined);
    expect(outcomes).toMatchObject([{ code: 'folder/not-a-file' }, { size: 1 }]);
    vi.unstubAllGlobals();
  });
});

const { fetch: realFetch } = globalThis;
/** As a page of this server asks, by addresses of its own. */
const pageFetch = (url: string, init?: RequestInit): Promise<Response> => realFetch(new URL(url, server.base), init);

describe('a served folder read by the page', () => {
  beforeAll(() => void vi.stubGlobal('fetch', pageFetch));
  afterAll(() => void vi.unstubAllGlobals());

  let made = 0;
  it.each(READER_CONTRACT)('$name', ({ hold }) =>
    hold(async (files) => {
      const folder = `contract-${made++}`;
      for (const [path, bytes] of Object.entries(files)) put(`games/${folder}/${path}`, bytes);
      return servedFolder({ kind: 'served', root, folder, token: TOKEN });
    }),
  );

  it('is hashed by the server to what the usual command says', async () => {
    put('games/hashed/one', 'x'.repeat(1000));
    put('games/hashed/deep/two', '');
    const folder = servedFolder({ kind: 'served', root, folder: 'hashed', token: TOKEN });
    const files = [
      { path: 'one', size: 1000 },
      { path: 'deep/two', size: 0 },
      { path: 'none', size: 1 },
    ];
    const outcomes = await folder.hash(files, new AbortController().signal, () => undefined);
    const command = (path: string): string =>
      execFileSync('sha256sum', [join(root, 'hashed', path)], { encoding: 'utf8' }).slice(0, 64);
    expect(outcomes).toEqual([
      { index: 0, size: 1000, bytes: 1000, pieces: [command('one')] },
      { index: 1, size: 0, bytes: 0, pieces: [command('deep/two')] },
      { index: 2, code: 'folder/not-found' },
    ]);
  });

  it('is hashed in pieces of any size, and a span ends with the file', async () => {
    const size = (5 << 20) + 3;
    put('games/cut/large', Buffer.alloc(size, 7));
    const folder = servedFolder({ kind: 'served', root, folder: 'cut', token: TOKEN });
    const hash = (wish: object): Promise<unknown> =>
      folder.hash([{ path: 'large', size, ...wish }], new AbortController().signal, () => undefined);
    const counts = async (wish: object) =>
      ((await hash(wish)) as { bytes: number; pieces: string[] }[]).map(({ bytes, pieces }) => [bytes, pieces.length]);
    expect(await counts({})).toEqual([[size, 6]]);
    expect(await counts({ pieceSize: 1 << 22 })).toEqual([[size, 2]]);
    expect(await counts({ pieceSize: 1 << 30 })).toEqual([[size, 1]]);
    expect(await counts({ span: { first: 4, end: 4e9 } })).toEqual([[(1 << 20) + 3, 2]]);
    expect(await counts({ span: { first: 9, end: 10 } })).toEqual([[0, 0]]);
    const whole = execFileSync('sha256sum', [join(root, 'cut/large')], { encoding: 'utf8' }).slice(0, 64);
    expect(await hash({ pieceSize: 1 << 30 })).toMatchObject([{ pieces: [whole] }]);
  });
});
