import { type ChildProcess, execFileSync, spawn, type SpawnOptions } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { CHANGES_VERSION, type ChangeSet, type Step, STORE_FOLDER } from '#core/changes';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { onServer } from '~/changes/on-server';
import { servedStore } from '~/folders';
import type { JobContext } from '~/jobs/job-context';
import { keyOfText } from '../../core/testing/memory-disk';
import type { Settings } from '../app';
import { type RunningServer, startServer } from '../testing/start-server';

const TOKEN = 'a-token-of-this-start';
const GOOD = { [SERVED_TOKEN_HEADER]: TOKEN };
let work: string;
let root: string;
let server: RunningServer;
const { fetch } = globalThis;

async function start(settings: Partial<Settings> = {}, options: SpawnOptions = {}): Promise<void> {
  server = await startServer({ roots: [root], token: TOKEN, write: true, ...settings }, options);
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) => fetch(new URL(url, server.base), init));
}

const game = (path = ''): string => join(root, 'ferry', path);
function put(path: string, text: string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}

beforeEach(() => {
  work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-changes-')));
  root = join(work, 'games');
  for (const path of ['a', 'b/c', 'b/d']) put(game(path), path.repeat(50));
});
afterEach(async () => {
  vi.unstubAllGlobals();
  await server.close();
  rmSync(work, { recursive: true });
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
const setOf = (steps: readonly Step[], id = 's1'): ChangeSet => ({
  ...{ version: CHANGES_VERSION, id, at: 0, what: 'lay-down', facts: {} },
  steps: [...steps],
});
const layDown = (): ChangeSet =>
  setOf([
    copy('a'),
    copy('b/c'),
    { do: 'write', text: 'new', to: 'trees/t2/new', key: keyOfText('new') },
    { do: 'exchange', from: 't1', to: 't2' },
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
    await start();
    const changes = onServer(place());
    await changes.run(contextUntil(), 's1', 'on', layDown());
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect(told).toEqual({ files: 3, bytes: 'a'.length * 50 + 'b/c'.length * 50 + 3 });
    expect(await changes.disk.current()).toBe('t2');
    expect((await changes.read('s1'))!.set).toEqual(layDown());
    expect((await changes.list()).map(({ set }) => set.id)).toEqual(['s1']);
    expect((await changes.disk.list('trees/t2')).map(({ path }) => path)).toEqual(
      ['a', 'b/c', 'new'].map((p) => `trees/t2/${p}`),
    );
    expect((await changes.disk.list('trees/t1')).map(({ path }) => path)).toContain('trees/t1/b/d');
    await changes.run(contextUntil(), 's1', 'back');
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    await changes.run(contextUntil(), 's1', 'on');
    await changes.letGo(contextUntil(), 's1');
    expect(names()).toEqual(['./a', './b/c', './new']);
    expect(await changes.list()).toEqual([]);
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
    await onServer(place()).letGo(contextUntil(), 's1');
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    expect(await onServer(place()).disk.list('trees')).toEqual([]);
  });

  it('takes in what arrives only with the bytes that were announced', async () => {
    await start();
    const store = servedStore(place());
    const bytes = new TextEncoder().encode('what was fetched');
    const name = createHash('sha256').update(bytes).digest('hex');
    await store.writeAt(`fetched/${name}.part`, 0, bytes.slice(0, 5));
    await store.writeAt(`fetched/${name}.part`, 5, bytes.slice(5));
    await store.move(`fetched/${name}.part`, `fetched/${name}`);
    expect((await store.list('fetched')).map(({ path, size }) => [path, size])).toEqual([
      [`fetched/${name}`, bytes.length],
    ]);
    const other = 'a'.repeat(64);
    await store.writeAt(`fetched/${other}.part`, 0, bytes);
    await expect(store.move(`fetched/${other}.part`, `fetched/${other}`)).rejects.toMatchObject({
      code: 'service/corrupt-piece',
    });
    expect(await store.list('fetched')).toHaveLength(1);
    await store.dropArrived();
    expect(await store.list('fetched')).toEqual([]);
  });
});

describe('what is not allowed', () => {
  it('without the word at the start: anything that writes', async () => {
    await start({ write: false });
    expect(await (await ask('state')).json()).toMatchObject({ write: false });
    const name = 'a'.repeat(64);
    expect(await codeOf(ask('change', { method: 'POST', body: '{}' }))).toBe('served/no-write');
    expect(await codeOf(ask('arrival', { method: 'PUT', body: 'x' }, { name, offset: '0' }))).toBe('served/no-write');
    expect(await codeOf(ask('arrival', { method: 'DELETE' }))).toBe('served/no-write');
    expect(names()).toEqual(['./a', './b/c', './b/d']);
    expect(execFileSync('find', [game(), '-name', STORE_FOLDER]).toString()).toBe('');
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
  ];

  it('a set, a place or an arrival that is not as it must be: each is refused by name, and nothing is changed', async () => {
    put(join(work, 'outside/a'), 'a');
    put(join(work, 'games-of-others/a'), 'a');
    await start();
    for (const [what, more, code] of bad()) {
      const body = { root, folder: 'ferry', set: 's1', act: 'on', ...more };
      if (body.root === 'PARENT') body.root = root.slice(0, -1);
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
    await start();
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
      await start();
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
    await start();
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
