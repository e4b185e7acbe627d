import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { READER_CONTRACT } from '~/folders/contract';
import { servedFolder } from '~/folders/served-folder';
import { action } from '../routes/served';

const TOKEN = 'a-token-of-this-start';
const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-served-')));
const root = join(work, 'games');

function put(path: string, content: string | Uint8Array): void {
  const place = join(work, path);
  mkdirSync(dirname(place), { recursive: true });
  writeFileSync(place, content);
}

beforeAll(() => {
  put('games/ferry/tables/a.csv', 'a');
  put('secret/key', 'secret');
  symlinkSync(join(work, 'secret'), join(root, 'ferry/way-out'));
  symlinkSync(join(work, 'secret/key'), join(root, 'ferry/key'));
  symlinkSync(join(root, 'ferry/tables'), join(root, 'ferry/other-tables'));
});
afterAll(() => rmSync(work, { recursive: true }));
beforeEach(() => {
  vi.stubEnv('REGRESSUM_ROOTS', root);
  vi.stubEnv('REGRESSUM_TOKEN', TOKEN);
});

type Headers = Record<string, string>;
const GOOD = { Host: '127.0.0.1:4173', [SERVED_TOKEN_HEADER]: TOKEN };

function ask(query: string, headers: Headers = GOOD, init: RequestInit = {}): Promise<Response> {
  const request = new Request(`http://127.0.0.1:4173/served/${query}`, init);
  // Made by hand, a request may not say its own Host or Origin; a browser says them.
  const said = new Map(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value]));
  vi.spyOn(request.headers, 'get').mockImplementation((name) => said.get(name.toLowerCase()) ?? null);
  return action({ request, params: { what: query.split('?')[0]! } });
}

const refusal = async (response: Promise<Response>): Promise<unknown> => {
  const answer = await response;
  return [answer.status, ((await answer.json()) as { code: string }).code];
};

describe('a served folder is for nobody', () => {
  it.each<[string, Headers]>([
    ['without the token', { Host: '127.0.0.1:4173' }],
    ['with an old token', { ...GOOD, [SERVED_TOKEN_HEADER]: 'a-token-of-that-start' }],
    ['by a name that is not this machine’s', { ...GOOD, Host: 'games.example:4173' }],
    ['from a foreign origin', { ...GOOD, Origin: 'http://games.example' }],
    ['from another port of this machine', { ...GOOD, Origin: 'http://127.0.0.1:9999' }],
    ['from another site by what the browser says', { ...GOOD, 'Sec-Fetch-Site': 'cross-site' }],
  ])('%s', async (_, headers) => {
    expect(await refusal(ask('roots', headers))).toEqual([403, 'served/refused']);
  });

  it('when none was named at the start', async () => {
    vi.stubEnv('REGRESSUM_ROOTS', '');
    expect(await refusal(ask('roots'))).toEqual([404, 'served/off']);
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

  it('from another root', async () => {
    const query = new URLSearchParams({ root: join(work, 'secret'), folder: '', path: 'key' });
    expect(await refusal(ask(`file?${query}`))).toEqual([403, 'served/outside']);
  });

  it('by hashing, and a link in the list is none of its files', async () => {
    const body = JSON.stringify({
      ...{ root, folder: 'ferry' },
      files: ['tables/a.csv', 'key'].map((path) => ({ path, size: 1 })),
    });
    const text = await (await ask('hash', GOOD, { method: 'POST', body })).text();
    expect(
      text
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as unknown),
    ).toMatchObject([
      { index: 0, size: 1 },
      { index: 1, code: 'folder/failed' },
    ]);
    const listed = await (await ask(`list?${new URLSearchParams({ root, folder: 'ferry' })}`)).text();
    expect(listed.trim().split('\n')).toHaveLength(1);
  });
});

describe('a served folder read by the page', () => {
  beforeAll(() => {
    vi.stubGlobal('fetch', (url: string, init: RequestInit = {}) =>
      ask(url.replace('/served/', ''), { ...GOOD, ...(init.headers as Headers) }, init),
    );
  });
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
});
