import { type ChildProcess, execFileSync, spawn, type SpawnOptions } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { CHANGES_VERSION, type ChangeSet, type Leaves, type Step, STORE_FOLDER } from '#core/changes';
import { arrivingPath, contentPath, makeReference } from '#core/contents';
import type { ContentKey } from '#core/digest';
import { IN_GAME, type Keepsake, KEEPSAKE_VERSION } from '#core/keepsakes';
import { SERVED_TOKEN_HEADER } from '#core/served';
import type { StoreAct } from '~/changes';
import { onServer } from '~/changes/on-server';
import { servedStore } from '~/folders';
import type { JobContext } from '~/jobs/job-context';
import { keyOfBytes, keyOfText } from '../../core/testing/memory-disk';
import type { Settings } from '../app';
import { type RunningServer, startServer } from '../testing/start-server';

const TOKEN = 'a-token-of-this-start';
const GOOD = { [SERVED_TOKEN_HEADER]: TOKEN };
let work: string;
let root: string;
/** The server of the test that runs. */
let server: RunningServer;
/** One for all tests that want nothing particular of theirs: a server takes longer to start than most tests take. */
let shared: RunningServer | undefined;
const { fetch } = globalThis;

/** A folder for each test, all of them served by the shared server. */
const base = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-changes-')));
// One test has another person run its server.
chmodSync(base, 0o755);
const rooms = Array.from({ length: 60 }, (_, i) => join(base, String(i)));
for (const room of rooms) mkdirSync(join(room, 'games'), { recursive: true });
const free = [...rooms];

async function start(settings: Partial<Settings> = {}, options: SpawnOptions = {}): Promise<void> {
  server = await startServer({ roots: [root], token: TOKEN, write: true, ...settings }, options);
  listen();
}

async function startShared(): Promise<void> {
  shared ??= await startServer({ roots: rooms.map((room) => join(room, 'games')), token: TOKEN, write: true });
  server = shared;
  listen();
}

function listen(): void {
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) => fetch(new URL(url, server.base), init));
}

const game = (path = ''): string => join(root, 'ferry', path);
function put(path: string, text: string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}

beforeEach(() => {
  work = free.pop()!;
  root = join(work, 'games');
  for (const path of ['a', 'b/c', 'b/d']) put(game(path), path.repeat(50));
});
afterEach(async () => {
  vi.unstubAllGlobals();
  if (server !== shared) await server.close();
});
afterAll(async () => {
  await shared?.close();
  rmSync(base, { recursive: true });
});

const place = () => ({ kind: 'served', root, folder: 'ferry', token: TOKEN }) as const;
const told = { files: 0, bytes: 0 };
function contextUntil(signal = new AbortController().signal): JobContext {
  Object.assign(told, { files: 0, bytes: 0 });
  return {
    signal,
    add: (files: number, bytes: number) =>
      Object.assign(told, { files: told.files + files, bytes: told.bytes + bytes }),
    pausing: <T>(work: (signal: AbortSignal) => Promise<T>) => work(signal),
  } as unknown as JobContext;
}

const copy = (path: string, from = 't1', to = 't2'): Step => ({
  ...{ do: 'copy', from: `trees/${from}/${path}`, to: `trees/${to}/${path}` },
  key: keyOfText(readFileSync(game(path), 'utf8')),
});
const leaves = (): Leaves => ['a', 'b/c', 'b/d'].map((path) => [path, keyOfText(path.repeat(50))]);
const setOf = (steps: readonly Step[], id = 's1'): ChangeSet => ({
  ...{ version: CHANGES_VERSION, id, at: 0, what: 'lay-down', facts: {} },
  steps: [...steps],
});
const layDown = (): ChangeSet =>
  setOf([
    copy('a'),
    copy('b/c'),
    { do: 'write', text: 'new', to: 'trees/t2/new', key: keyOfText('new') },
    { do: 'exchange', from: 't1', to: 't2', leaves: leaves() },
  ]);

const names = (): string[] =>
  execFileSync('find', ['.', '-type', 'f', '-not', '-path', `./${STORE_FOLDER}/*`], { cwd: game() })
    .toString()
    .trim()
    .split('\n')
    .sort();

const ask = (what: string, init: RequestInit = {}, more: Record<string, string> = {}): Promise<Response> =>
  fetch(`${server.base}/served/${what}?${new URLSearchParams({ root, folder: 'ferry', ...more })}`, {
    ...init,
    headers: GOOD,
  });
const codeOf = async (answer: Promise<Response>): Promise<string> =>
  ((await (await answer).json()) as { code: string }).code;

describe('a served folder', () => {
  it('is laid down, taken back, made again and let go, and the page hears of it', async () => {
    await startShared();
    const changes = onServer(place());
    const store = servedStore(place());
    await changes.run(contextUntil(), 's1', 'on', layDown());
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect(told).toEqual({ files: 3, bytes: 'a'.length * 50 + 'b/c'.length * 50 + 3 });
    expect(await changes.disk.current()).toBe('t2');
    expect((await changes.read('s1'))!.set).toEqual(layDown());
    const view = await store.view();
    expect(view.history).toMatchObject([{ id: 's1', state: 'made', keeps: { files: 3, bytes: 350 }, after: [] }]);
    expect(view.inventory.piles.map(({ purpose }) => purpose.kind)).toEqual(['game', 'change', 'records']);
    expect((await changes.disk.list('trees/t2')).map(({ path }) => path)).toEqual(
      ['a', 'b/c', 'new'].map((p) => `trees/t2/${p}`),
    );
    expect((await changes.disk.list('trees/t1')).map(({ path }) => path)).toContain('trees/t1/b/d');
    await changes.run(contextUntil(), 's1', 'back');
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    await changes.run(contextUntil(), 's1', 'on', undefined, { leaves: leaves() });
    await changes.carryOut(contextUntil(), { act: 'let-go', set: 's1' });
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect((await store.view()).history).toMatchObject([{ id: 's1', state: 'let-go', keeps: { files: 0 } }]);
    expect(await changes.disk.list('trees/t1')).toEqual([]);
  });

  it('has its store where the start says, and no list of the game shows one', async () => {
    const store = join(work, 'stores');
    await start({ store });
    await onServer(place()).run(contextUntil(), 's1', 'on', layDown());
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect(execFileSync('find', [game(), '-name', STORE_FOLDER]).toString()).toBe('');
    put(game(`${STORE_FOLDER}/x`), 'of a start without');
    const list = await (await ask('list')).text();
    expect(list).not.toContain(STORE_FOLDER);
  });

  it('of a server that was killed in the middle goes on with another one', async () => {
    await start();
    // A change that cannot end, since what it takes is not as it was planned, has written what came before.
    const odd = setOf([
      copy('a'),
      { ...copy('b/c'), key: keyOfText('other') } as Step,
      { do: 'exchange', from: 't1', to: 't2' },
    ]);
    await expect(onServer(place()).run(contextUntil(), 's1', 'on', odd)).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path: 'trees/t1/b/c' },
    });
    await server.close();
    await start();
    await onServer(place()).run(contextUntil(), 's1', 'back');
    await onServer(place()).carryOut(contextUntil(), { act: 'let-go', set: 's1' });
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    expect(await onServer(place()).disk.list('trees')).toEqual([]);
  });

  it('takes in what arrives only with the bytes that were announced', async () => {
    await startShared();
    const store = servedStore(place());
    const bytes = new TextEncoder().encode('what was fetched');
    const nameOf = (key: ContentKey): string => createHash('sha256').update(key).digest('hex');
    const key = keyOfBytes(bytes);
    const name = nameOf(key);
    await store.writeAt(arrivingPath(name), 0, bytes.slice(0, 5));
    expect(await store.stat(arrivingPath(name))).toMatchObject({ size: 5 });
    await store.writeAt(arrivingPath(name), 5, bytes.slice(5));
    expect(await store.stat(arrivingPath(name))).toMatchObject({ size: bytes.length });
    await store.takeIn(name, key);
    expect((await store.list('contents')).map(({ path, size }) => [path, size])).toEqual([
      [contentPath(name), bytes.length],
    ]);
    const other = keyOfText('what was announced');
    await store.writeAt(arrivingPath(nameOf(other)), 0, bytes);
    await expect(store.takeIn(nameOf(other), other)).rejects.toMatchObject({ code: 'service/corrupt-piece' });
    await store.writeAt(arrivingPath(nameOf(other)), 0, bytes);
    await expect(store.takeIn(nameOf(other), key)).rejects.toMatchObject({ code: 'request/malformed' });
    expect(await store.list('contents')).toHaveLength(1);
  });
});

describe('a store that several games share', () => {
  const keepAct = async (id: string, files: Record<string, string>): Promise<StoreAct> => {
    const reason = { kind: 'build', game: 'g', build: id } as const;
    const sha256 = async (text: string | Uint8Array) => createHash('sha256').update(text).digest('hex');
    const keys = Object.values(files).map(keyOfText);
    const reference = await makeReference({ id: `build-${id}`, at: 0, reason }, keys, { sha256 });
    return { act: 'keep', reference, from: Object.entries(files).map(([path, text]) => [keyOfText(text), path]) };
  };

  it('has each content once, tells each game of it, and takes them in turns', async () => {
    const FILES = Array.from({ length: 30 }, (_, i) => `f${i}`);
    for (const path of FILES) {
      put(join(work, 'games/ferry', path), `same ${path}`);
      put(join(work, 'games/barge', path), path < 'f2' ? `same ${path}` : `other ${path}`);
    }
    await start({ store: join(work, 'stores') });
    const games = ['ferry', 'barge'].map((folder) => ({ ...place(), folder }));
    const filesOf = (folder: string): Record<string, string> =>
      Object.fromEntries(
        FILES.map((path) => [`trees/t1/${path}`, readFileSync(join(work, 'games', folder, path), 'utf8')]),
      );
    // All at once, again and again: each writes its reference into the folder that both share.
    await Promise.all(
      games.flatMap((game) =>
        [1, 2, 3].map(async (n) =>
          onServer(game).carryOut(contextUntil(), await keepAct(`${game.folder}${n}`, filesOf(game.folder))),
        ),
      ),
    );
    const [ferry, barge] = await Promise.all(games.map((game) => servedStore(game).view()));
    expect([ferry!.unreadable, barge!.unreadable]).toEqual([[], []]);
    expect(ferry!.references.map(({ id, missing }) => [id, missing]).sort()).toEqual(
      ['barge1', 'barge2', 'barge3', 'ferry1', 'ferry2', 'ferry3'].map((id) => [`build-${id}`, 0]),
    );
    const texts = new Set([...Object.values(filesOf('ferry')), ...Object.values(filesOf('barge'))]);
    expect(await servedStore(games[0]!).list('contents')).toHaveLength(texts.size);
    const sources = await servedStore(games[1]!).sources();
    expect(sources.get(keyOfText('same f5'))).toMatch(/^contents\//);
    // What one game gives up stays where the other keeps it.
    for (const n of [1, 2, 3])
      await onServer(games[0]!).carryOut(contextUntil(), { act: 'drop', reference: `build-ferry${n}` });
    expect(await servedStore(games[0]!).list('contents')).toHaveLength(FILES.length);
    expect((await servedStore(games[1]!).view()).references.every(({ missing }) => missing === 0)).toBe(true);
  });

  it('keeps for each game what a browser knows of it, and says how much is free', async () => {
    await start({ store: join(work, 'stores') });
    expect(await servedStore(place()).mirror()).toBeUndefined();
    await onServer(place()).carryOut(contextUntil(), { act: 'mirror', text: 'what is wanted' });
    expect(await servedStore(place()).mirror()).toBe('what is wanted');
    const { swaps, free } = await servedStore(place()).state();
    expect(swaps).toBe(true);
    expect(free).toBeGreaterThan(0);
  });
});

const REFERENCE = { version: 1, id: 'r', reason: { kind: 'build', game: 'g', build: 'b' }, at: 0, contents: [] };

describe('what is not allowed', () => {
  it('without the word at the start: anything that writes', async () => {
    await start({ write: false });
    expect(await servedStore(place()).state()).toMatchObject({ write: false, open: [] });
    const name = 'a'.repeat(64);
    expect(await codeOf(ask('change', { method: 'POST', body: '{}' }))).toBe('served/no-write');
    expect(await codeOf(ask('arrival', { method: 'PUT', body: 'x' }, { name, offset: '0' }))).toBe('served/no-write');
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    expect(execFileSync('find', [game(), '-name', STORE_FOLDER]).toString()).toBe('');
  });

  it.each(['change', 'fetch', 'flags', 'arrival'])('%s by another method than its own', async (what) => {
    await startShared();
    const answer = await ask(what);
    expect([answer.status, answer.headers.get('Allow')]).toEqual([405, expect.stringContaining('POST')]);
    for (const read of ['state', 'journal', 'view', 'mirror', 'keepsakes'])
      expect((await ask(read, { method: 'POST', body: '{}' })).status, read).toBe(405);
  });

  const bad = (): readonly [what: string, more: Record<string, unknown>, code: string][] => [
    [
      'a set that writes into the game by itself',
      { plan: setOf([{ do: 'write', text: 'x', to: 'trees/t1/a', key: keyOfText('x') }]) },
      'changes/not-allowed',
    ],
    [
      'a path that leads out',
      {
        plan: { ...setOf([]), steps: [{ do: 'copy', from: '../../key', to: 'staged/s1/0.dat', key: keyOfText('x') }] },
      },
      'json/does-not-fit',
    ],
    ['a folder that leads out', { folder: '../outside', plan: setOf([]) }, 'served/outside'],
    ['a store as a game', { folder: `ferry/${STORE_FOLDER}`, plan: setOf([]) }, 'served/outside'],
    ['a root that is only the beginning of a served one', { root: 'PARENT', plan: setOf([]) }, 'served/outside'],
    ['a set that is none', { plan: { steps: [] } }, 'json/does-not-fit'],
    ['a set that nobody wrote down', {}, 'changes/unknown'],
    ['another id than the plan’s', { set: 's2', plan: setOf([]) }, 'json/does-not-fit'],
    ['an id that leads out', { set: '../s2' }, 'json/does-not-fit'],
    [
      'contents from what the store keeps of itself',
      { act: 'keep', reference: REFERENCE, from: [[keyOfText('x'), 'journal/s1/plan.dat']] },
      'json/does-not-fit',
    ],
    [
      'contents from outside',
      { act: 'keep', reference: REFERENCE, from: [[keyOfText('x'), '../x']] },
      'json/does-not-fit',
    ],
    ['a reference that leads out', { act: 'drop', reference: '../x' }, 'json/does-not-fit'],
  ];

  it('a set, a place or an arrival that is not as it must be: each is refused by name, and nothing is changed', async () => {
    put(join(work, 'outside/a'), 'a');
    put(join(work, 'games-of-others/a'), 'a');
    await startShared();
    for (const [what, more, code] of bad()) {
      const { root: asked, folder = 'ferry', ...act } = more;
      const below = asked === 'PARENT' ? root.slice(0, -1) : root;
      const body = { root: below, folder, act: { act: 'on', set: 's1', ...act } };
      const answer = await (await ask('change', { method: 'POST', body: JSON.stringify(body) })).text();
      expect(answer, what).toContain(`"${code}"`);
      expect(names(), what).toEqual(['./a', './b/c', './b/d']);
    }
    for (const name of ['..', 'a/../b', 'A'.repeat(64), '']) {
      const answer = ask('arrival', { method: 'PUT', body: 'x' }, { name, offset: '0' });
      expect(await codeOf(answer), name).toBe('request/malformed');
    }
  });

  it('a folder that a link took the place of, on reads and on writes', async () => {
    await startShared();
    put(join(work, 'outside/c'), 'secret');
    const set = layDown();
    rmSync(game('b'), { recursive: true });
    symlinkSync(join(work, 'outside'), game('b'));
    await expect(onServer(place()).run(contextUntil(), 's1', 'on', set)).rejects.toMatchObject({
      code: 'served/outside',
    });
    expect(readFileSync(join(work, 'outside/c'), 'utf8')).toBe('secret');
  });

  describe('while the game is at work', () => {
    let program: ChildProcess;
    afterEach(() => program.kill('SIGKILL'));

    it.each<[string, () => ChildProcess, string]>([
      ['it has a file open', () => spawn('sh', ['-c', `exec 9<"${game('b/c')}"; read line`]), 'b/c'],
      ['it runs from there', () => (cpSync('/bin/sleep', game('play')), spawn(game('play'), ['600'])), 'play'],
    ])('nothing is changed where %s, and it goes on once that is over', async (_, run, path) => {
      await startShared();
      program = run();
      const isThere = (): boolean => existsSync(`/proc/${program.pid}/fd/9`) || path === 'play';
      await vi.waitUntil(isThere, { timeout: 5000 });
      const changes = onServer(place());
      const before = names();
      await expect(changes.run(contextUntil(), 's1', 'on', layDown())).rejects.toMatchObject({
        code: 'folder/in-use',
        facts: { path },
      });
      expect(names()).toEqual(before);
      program.kill('SIGKILL');
      await once(program, 'exit');
      await changes.run(contextUntil(), 's1', 'on', layDown());
      expect(names()).toEqual(['./a', './b/c', './new']);
    });
  });

  it('what another program has open for a moment is waited for', async () => {
    await startShared();
    const reader = spawn('sh', ['-c', `exec 9<"${game('b/c')}"; sleep 0.8`]);
    await vi.waitUntil(() => existsSync(`/proc/${reader.pid}/fd/9`), { timeout: 5000 });
    await onServer(place()).run(contextUntil(), 's1', 'on', layDown());
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect(reader.exitCode).toBe(0);
  });

  it('a file that may not be read, or a folder that may not be written: both are named, and nothing is half done', async () => {
    // Whoever may do anything cannot be refused, and so lets another person run the server.
    if (process.getuid?.() !== 0) return;
    const nobody = 65534;
    execFileSync('chown', ['-R', String(nobody), work]);
    chmodSync(game('b/c'), 0o000);
    execFileSync('chown', ['0', game('b/c')]);
    const plan = { ...layDown(), steps: [...layDown().steps] };
    await start({}, { uid: nobody });
    const before = names();
    const changes = onServer(place());
    await expect(changes.run(contextUntil(), 's1', 'on', plan)).rejects.toMatchObject({
      code: 'folder/no-permission',
      facts: { path: 'trees/t1/b/c' },
    });
    expect(names()).toEqual(before);
    chmodSync(game('b/c'), 0o644);
    // What is swapped out of its place has to leave its folder, which is another person's now.
    execFileSync('chown', ['0', game()]);
    chmodSync(game(), 0o755);
    await expect(changes.run(contextUntil(), 's1', 'on')).rejects.toMatchObject({ code: 'folder/no-permission' });
    expect(names()).toEqual(before);
    execFileSync('chown', [String(nobody), game()]);
    await changes.run(contextUntil(), 's1', 'on');
    expect(names()).toEqual(['./a', './b/c', './new']);
  });

  it('a change that another one has overtaken: one at a time runs', async () => {
    await startShared();
    const many = setOf(
      Array.from({ length: 400 }, (_, i): Step => ({
        do: 'write',
        text: 'x',
        to: `trees/t2/${i}`,
        key: keyOfText('x'),
      })).concat([{ do: 'exchange', from: 't1', to: 't2' }]),
    );
    const outcomes = await Promise.allSettled(
      ['s1', 's2'].map((id) => onServer(place()).run(contextUntil(), id, 'on', { ...many, id })),
    );
    const [failed] = outcomes.filter(({ status }) => status === 'rejected');
    expect(outcomes.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    expect(failed).toMatchObject({ reason: { code: 'changes/superseded' } });
    expect(names()).toHaveLength(400);
  });
});

describe('keepsakes', () => {
  it('of a served folder and one beside it lie in its store, are handed out by their names alone, and go for good', async () => {
    await startShared();
    put(game('saves/one'), 'first save');
    put(join(root, 'outside/two'), 'second save');
    const changes = onServer(place(), { ownabc: { root, folder: 'outside' } });
    const store = servedStore(place());
    const [one, two] = ['first save', 'second save'].map(keyOfText) as [ContentKey, ContentKey];
    const keepsake: Keepsake = {
      ...{ version: KEEPSAKE_VERSION, id: 'k1', at: 5, why: 'asked', profile: 'First' },
      files: [
        { place: IN_GAME, path: 'saves/one', kind: 'saves', key: one, modified: 0 },
        { place: 'ownabc', path: 'two', kind: 'saves', key: two, modified: null },
      ],
    };
    const from: [ContentKey, string][] = [
      [one, 'trees/t1/saves/one'],
      [two, 'beside/ownabc/two'],
    ];
    await changes.carryOut(contextUntil(), { act: 'keepsake', install: 'i', keepsake, from });
    expect(await store.keepsakes()).toEqual({
      keepsakes: [{ id: 'k1', at: 5, why: 'asked', profile: 'First', files: 2, bytes: 21 }],
      unreadable: [],
    });
    expect(await store.keepsake('k1')).toEqual(keepsake);
    expect(await store.keepsake('k2')).toBeUndefined();
    const path = contentPath(createHash('sha256').update(two).digest('hex'));
    expect(Buffer.from(await store.read(path)).toString()).toBe('second save');
    for (const name of ['../../secret', '', 'a'.repeat(63), `${'a'.repeat(64)}/..`])
      expect(await codeOf(ask('content', {}, { name }))).toBe('request/malformed');
    expect(await codeOf(ask('keepsake', {}, { id: '../x' }))).toBe('request/malformed');
    // One that changed meanwhile is kept as nothing else.
    put(game('saves/one'), 'other bytes');
    const again = { ...keepsake, id: 'k3', files: [{ ...keepsake.files[0]!, key: keyOfText('first save!') }] };
    const wrong = [[keyOfText('first save!'), 'trees/t1/saves/one']] as [ContentKey, string][];
    await expect(
      changes.carryOut(contextUntil(), { act: 'keepsake', install: 'i', keepsake: again, from: wrong }),
    ).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
    expect((await store.keepsakes()).keepsakes).toHaveLength(1);
    await changes.carryOut(contextUntil(), { act: 'drop-keepsake', keepsake: 'k3' });
    await changes.carryOut(contextUntil(), { act: 'drop-keepsake', keepsake: 'k1' });
    expect((await store.keepsakes()).keepsakes).toEqual([]);
    await expect(store.read(path)).rejects.toMatchObject({ code: 'folder/not-found' });
    expect(readFileSync(game('saves/one'), 'utf8')).toBe('other bytes');
  });
});

describe('a folder beside the game’s', () => {
  const sha256 = async (data: string | Uint8Array): Promise<string> => createHash('sha256').update(data).digest('hex');
  const beside = { brought: { root: '', folder: 'got/deep' } };
  const arrivedOf = (path = ''): string => join(root, 'got/deep', path);
  const keep = async (wanted: Record<string, string>, how: 'copy' | 'move', other = beside): Promise<void> => {
    const keys = Object.values(wanted).map(keyOfText);
    const named = { id: 'gather', at: 0, reason: { kind: 'fetched', install: 'i', build: '1' } as const };
    const reference = await makeReference(named, keys, { sha256 });
    const from = Object.keys(wanted).map((path, i) => [keys[i]!, `beside/brought/${path}`] as [ContentKey, string]);
    const places = Object.fromEntries(
      Object.entries(other).map(([name, one]) => [name, { ...one, root: one.root || root }]),
    );
    await onServer(place(), places).carryOut(contextUntil(), { act: 'keep', reference, from, how });
  };
  const contents = async (): Promise<string[]> =>
    (await servedStore(place()).list('contents')).map(({ path }) => path).sort();
  const pathOf = async (text: string): Promise<string> => contentPath(await sha256(keyOfText(text)));

  beforeEach(() => {
    put(arrivedOf('one'), 'first');
    put(arrivedOf('sub/two'), 'second');
  });

  it.each(['copy', 'move'] as const)('gives contents to the store by %s', async (how) => {
    await startShared();
    await keep({ one: 'first', 'sub/two': 'second' }, how);
    expect(await contents()).toEqual([await pathOf('first'), await pathOf('second')].sort());
    expect([existsSync(arrivedOf('one')), existsSync(arrivedOf('sub/two'))]).toEqual(Array(2).fill(how === 'copy'));
    // Once more does nothing, though what was moved is gone.
    await keep({ one: 'first', 'sub/two': 'second' }, how);
    expect(await contents()).toHaveLength(2);
  });

  it('whose file is another by now keeps it, and gives nothing that is not right', async () => {
    await startShared();
    await expect(keep({ one: 'first', 'sub/two': 'changed' }, 'move')).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path: 'beside/brought/sub/two' },
    });
    expect(readFileSync(arrivedOf('sub/two'), 'utf8')).toBe('second');
    expect(await contents()).toEqual([await pathOf('first')]);
    expect(await servedStore(place()).list('arriving')).toEqual([]);
  });

  it('has the contents that its own store keeps, by their names, which are only read', async () => {
    await startShared();
    await keep({ one: 'first' }, 'copy');
    const there = (await pathOf('first')).slice('contents/'.length);
    mkdirSync(join(root, 'second'), { recursive: true });
    const second = { ...place(), folder: 'second' };
    const kept = { kept: { root, folder: place().folder, contents: true as const } };
    const key = keyOfText('first');
    const keepsake: Keepsake = {
      ...{ version: KEEPSAKE_VERSION, id: 'k9', at: 5, why: 'asked' },
      files: [{ place: IN_GAME, path: 'saves/one', kind: 'saves', key, modified: null }],
    };
    const bring = (from: string) =>
      onServer(second, kept).carryOut(contextUntil(), {
        ...{ act: 'keepsake', install: 'j', keepsake },
        from: [[key, `beside/kept/${from}`]],
      });
    await expect(bring('../journal/x')).rejects.toMatchObject({ code: 'json/does-not-fit' });
    await bring(there);
    expect(Buffer.from(await servedStore(second).read(`contents/${there}`)).toString()).toBe('first');
    // Nothing is changed there, not by a change set either.
    const set = setOf([{ do: 'take', path: `beside/kept/${there}`, key }]);
    await expect(onServer(second, kept).run(contextUntil(), 's1', 'on', set)).rejects.toMatchObject({
      code: 'folder/no-permission',
    });
    expect(Buffer.from(await servedStore(place()).read(`contents/${there}`)).toString()).toBe('first');
  });

  it('is neither the game’s, nor a store, a link, or anything that is not served', async () => {
    put(join(work, 'secret/one'), 'first');
    symlinkSync(join(work, 'secret'), join(root, 'link'));
    await startShared();
    const brought = (folder: string, at = '') => ({ brought: { root: at, folder } });
    for (const other of [
      ...[brought('ferry'), brought('ferry/b'), brought(`got/${STORE_FOLDER}`), brought('../secret'), brought('link')],
      brought('', '/etc'),
      // Named, but not as it is asked for.
      { other: { root: '', folder: 'got/deep' } },
    ])
      await expect(keep({ one: 'first' }, 'move', other as typeof beside), JSON.stringify(other)).rejects.toMatchObject(
        {
          code: 'served/outside',
        },
      );
    expect(await contents()).toEqual([]);
    expect([arrivedOf('one'), join(work, 'secret/one'), game('a')].map((path) => existsSync(path))).toEqual(
      Array(3).fill(true),
    );
  });

  it('has files that are edited, locked and read back as any other', async () => {
    await startShared();
    const record = onServer(place(), { record: { root, folder: 'got/deep' } });
    const path = 'beside/record/one';
    expect(await record.disk.stat(path)).toMatchObject({ size: 5 });
    expect((await record.disk.readOnlyOf([path])).has(path)).toBe(false);
    const set = setOf([
      { do: 'write', text: 'edited', to: 'staged/s1/edit.dat', key: keyOfText('edited') },
      { do: 'place', from: 'staged/s1/edit.dat', to: path, key: keyOfText('edited'), before: keyOfText('first') },
      { do: 'flag', path, readOnly: true, before: false },
    ]);
    await record.run(contextUntil(), 's1', 'on', set);
    expect(new TextDecoder().decode(await record.disk.read(path))).toBe('edited');
    expect((await record.disk.readOnlyOf([path])).has(path)).toBe(true);
    await record.run(contextUntil(), 's1', 'back');
    expect(readFileSync(arrivedOf('one'), 'utf8')).toBe('first');
    expect((await record.disk.readOnlyOf([path])).has(path)).toBe(false);
    expect(await record.disk.stat('beside/record/none')).toBeUndefined();
  });
});

describe.each(readdirSync('tests/samples'))('a folder that version %s held', (version) => {
  const expected = JSON.parse(readFileSync(`tests/samples/${version}/expected.json`, 'utf8')) as {
    before: string;
    laid: string;
    held: string;
    readOnly: string[];
  };
  const digests = (): string =>
    execFileSync('sh', ['-c', `find . -type f -not -path './${STORE_FOLDER}/*' -exec sha256sum {} + | sort -k2`], {
      cwd: game(),
      encoding: 'utf8',
    });
  beforeEach(async () => {
    rmSync(game(), { recursive: true });
    cpSync(`tests/samples/${version}/folder`, game(), { recursive: true });
    for (const path of expected.readOnly) chmodSync(game(path), 0o444);
    await startShared();
  });

  it('is told of, taken back to the byte, and made again', async () => {
    const { history } = await servedStore(place()).view();
    const [hold, layDown] = ['hold', 'lay-down'].map((what) => history.find((one) => one.what === what)!);
    expect([hold!.state, layDown!.state]).toEqual(['made', 'made']);
    expect(digests()).toBe(expected.held);
    const changes = onServer(place());
    await changes.run(contextUntil(), hold!.id, 'back');
    expect(digests()).toBe(expected.laid);
    await changes.run(contextUntil(), layDown!.id, 'back');
    expect(digests()).toBe(expected.before);
    await changes.run(contextUntil(), layDown!.id, 'on');
    await changes.run(contextUntil(), hold!.id, 'on');
    expect(digests()).toBe(expected.held);
  });

  it('with a change that a newer program wrote is refused by name, and not touched', async () => {
    const { history } = await servedStore(place()).view();
    const { id } = history.find(({ what }) => what === 'lay-down')!;
    const plan = game(`${STORE_FOLDER}/journal/${id}/plan.dat`);
    const { entry: written } = JSON.parse(readFileSync(plan, 'utf8')) as { entry: string };
    const entry = JSON.stringify({ ...(JSON.parse(written) as object), version: CHANGES_VERSION + 1 });
    const sha256 = createHash('sha256').update(entry).digest('hex');
    writeFileSync(plan, JSON.stringify({ sha256, entry }));
    await expect(onServer(place()).run(contextUntil(), id, 'back')).rejects.toMatchObject({ code: 'changes/newer' });
    expect(digests()).toBe(expected.held);
  });
});
