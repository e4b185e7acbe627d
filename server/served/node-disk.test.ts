import { execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { CHANGES_VERSION, type ChangeSet, letGo, openSet, run, type Step, STORE_FOLDER } from '#core/changes';
import { filled, FOLDER_CONTRACT, READER_CONTRACT } from '../../core/testing/folder-contract';
import { failingAfter, keyOfText, pictureOf, portsOn } from '../../core/testing/memory-disk';
import { holdRoot, type Opening } from './below';
import { type DiskPlace, FIRST_TREE, NodeDisk } from './node-disk';

/** How often something is tried while another process exchanges a folder for a link: most of what can meet has met by then. */
const TRIES = 2000;

let work: string;
let place: DiskPlace;
let open: NodeDisk[];

function diskAt(where = place): NodeDisk {
  const disk = new NodeDisk(where);
  open.push(disk);
  return disk;
}

const game = (path = ''): string => join(work, 'games/ferry', path);
function put(path: string, text: string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}

beforeEach(() => {
  work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-disk-')));
  open = [];
  mkdirSync(game(), { recursive: true });
  const root = holdRoot(join(work, 'games'));
  place = {
    game: root,
    folder: 'ferry',
    store: root,
    storeFolder: `ferry/${STORE_FOLDER}`,
    sharedFolder: `ferry/${STORE_FOLDER}`,
  };
});
afterEach(() => {
  open.forEach((disk) => disk.close());
  rmSync(work, { recursive: true });
});

/** As on Linux, and as on systems that open a folder by its path alone, such as Windows. */
const OPENINGS: readonly Opening[] = ['walk', 'prove'];
function openedBy(opening: Opening): void {
  const root = holdRoot(join(work, 'games'), opening);
  place = { ...place, game: root, store: root };
}

describe.each(OPENINGS)('the machine’s disk, opened by %s', (opening) => {
  beforeEach(() => openedBy(opening));
  it.each(READER_CONTRACT)('$name', ({ hold }) => hold((files) => filled(diskAt(), files)));
  it.each(FOLDER_CONTRACT)('$name', ({ hold }) => hold(diskAt()));

  it('takes a name as long as can be, and refuses a longer one by its path before anything is made', async () => {
    const disk = diskAt();
    const longest = `trees/t1/new/${'n'.repeat(255)}`;
    await disk.writeWhole(longest, new Uint8Array(3));
    await disk.copy(longest, `staged/s/${'m'.repeat(255)}`);
    expect(await disk.stat(longest)).toMatchObject({ size: 3 });
    for (const path of [
      `trees/t1/other/${'n'.repeat(256)}`,
      `trees/t1/other/${'海'.repeat(86)}`,
      `${'d'.repeat(256)}/x`,
    ])
      await expect(disk.writeWhole(path, new Uint8Array(3))).rejects.toMatchObject({
        code: 'path/too-long',
        facts: { path, limit: 255 },
      });
    expect(readdirSync(game())).not.toContain('other');
  });
});

describe.each(OPENINGS)('a link that is put in the way, opened by %s', (opening) => {
  beforeEach(() => openedBy(opening));
  beforeEach(() => put(join(work, 'secret/key'), 'secret'));
  const TREE = `trees/${FIRST_TREE}`;

  it.each<[string, (disk: NodeDisk) => Promise<unknown>]>([
    ['is not written through', (disk) => disk.writeWhole(`${TREE}/out/key`, new Uint8Array(1))],
    ['is not copied into', (disk) => disk.copy(`${TREE}/a`, `${TREE}/out/key`)],
    ['is not copied from', (disk) => disk.copy(`${TREE}/out/key`, 'staged/s/0.dat')],
    ['is not moved from', (disk) => disk.move(`${TREE}/out/key`, 'staged/s/0.dat')],
    ['is not moved into', (disk) => disk.move(`${TREE}/a`, `${TREE}/out/key`)],
    ['is not flagged through', (disk) => disk.setReadOnly(`${TREE}/key`, true)],
    ['is not written over', (disk) => disk.writeWhole(`${TREE}/key`, new Uint8Array(1))],
    ['is not copied as a file', (disk) => disk.copy(`${TREE}/key`, 'staged/s/0.dat')],
  ])('%s', async (_, change) => {
    put(game('a'), 'a');
    symlinkSync(join(work, 'secret'), game('out'));
    symlinkSync(join(work, 'secret/key'), game('key'));
    await expect(change(diskAt())).rejects.toMatchObject({ code: 'served/outside' });
    expect(readFileSync(join(work, 'secret/key'), 'utf8')).toBe('secret');
    expect(readdirSync(join(work, 'secret'))).toEqual(['key']);
    expect(statSync(join(work, 'secret/key')).mode & 0o200).not.toBe(0);
  });

  it('goes as a link when its folder is removed', async () => {
    put(game('sub/a'), 'a');
    symlinkSync(join(work, 'secret'), game('sub/out'));
    await diskAt().remove(`${TREE}/sub`);
    expect(existsSync(game('sub'))).toBe(false);
    expect(readFileSync(join(work, 'secret/key'), 'utf8')).toBe('secret');
  });
});

it('nothing is written, moved or flagged through a link that is put in a folder’s place meanwhile', async () => {
  put(join(work, 'outside/a'), 'outside');
  for (const name of ['a', 'b']) put(game(`sub/${name}`), 'inside');
  const [folder, target] = [game('sub'), join(work, 'outside')];
  const exchange = `const { renameSync, symlinkSync, unlinkSync } = require('fs');
    for (;;) { renameSync('${folder}', '${folder}.kept'); symlinkSync('${target}', '${folder}');
      unlinkSync('${folder}'); renameSync('${folder}.kept', '${folder}'); }`;
  const other = spawn(process.execPath, ['-e', exchange], { stdio: 'ignore' });
  // It may end by itself: where a change has made the folder anew, there is nothing to rename back.
  const ended = once(other, 'exit');
  const changes: readonly ((disk: NodeDisk, n: number) => Promise<unknown>)[] = [
    (disk, n) => disk.writeWhole('trees/t1/sub/a', new TextEncoder().encode(`inside ${n}`)),
    (disk) => disk.copy('trees/t1/sub/a', 'trees/t1/sub/c'),
    (disk) => disk.move('trees/t1/sub/c', 'staged/s/0.dat'),
    (disk) => disk.move('staged/s/0.dat', 'trees/t1/sub/c'),
    (disk) => disk.setReadOnly('trees/t1/sub/b', true),
    (disk) => disk.remove('trees/t1/sub/c'),
  ];
  let made = 0;
  for (let n = 0; n < TRIES || made === 0; n++) {
    const disk = new NodeDisk(place);
    const wasMade = await changes[n % changes.length]!(disk, n).then(
      () => true,
      () => false,
    );
    if (wasMade) made += 1;
    disk.close();
    // What is staged may hold what lay in either place; never what lies outside.
    const staged = game(`${STORE_FOLDER}/staged/s/0.dat`);
    if (existsSync(staged)) expect(readFileSync(staged, 'utf8')).toMatch(/^inside/);
  }
  other.kill('SIGKILL');
  await ended;
  expect(made).toBeGreaterThan(0);
  expect(readdirSync(target)).toEqual(['a']);
  expect(readFileSync(join(target, 'a'), 'utf8')).toBe('outside');
  expect(statSync(join(target, 'a')).mode & 0o200).not.toBe(0);
});

it.each(['../x', 'trees/t1/../../x', `trees/t1/${STORE_FOLDER}/journal/x`, 'trees/t1//x', 'trees/t1/..', '..'])(
  'a path that leads out is refused: %s',
  async (path) => {
    await expect(diskAt().writeWhole(path, new Uint8Array(1))).rejects.toMatchObject({ code: 'served/outside' });
  },
);

/** A folder on another volume than the games', which is one in memory. */
const OTHER_VOLUME = '/dev/shm';
const hasOtherVolume = existsSync(OTHER_VOLUME) && statSync(OTHER_VOLUME).dev !== statSync(tmpdir()).dev;

it.skipIf(!hasOtherVolume)(
  'keeps what is displaced in a store on another volume, from where it comes back; no folder is swapped there',
  async () => {
    const store = mkdtempSync(join(OTHER_VOLUME, 'regressum-store-'));
    try {
      put(game('a'), 'a');
      put(game('b'), 'b');
      const apart = { ...place, store: holdRoot(store), storeFolder: 's', sharedFolder: '' };
      expect([diskAt(apart).isOneVolume, diskAt().isOneVolume]).toEqual([false, true]);
      const steps: Step[] = [
        { do: 'write', text: 'new', to: 'staged/s1/0.dat', key: keyOfText('new') },
        { do: 'take', path: 'trees/t1/b', key: keyOfText('b') },
        { do: 'place', from: 'staged/s1/0.dat', to: 'trees/t1/a', key: keyOfText('new'), before: keyOfText('a') },
      ];
      const set: ChangeSet = { version: CHANGES_VERSION, id: 's1', at: 0, what: 'edit', facts: {}, steps };
      await openSet(set, portsOn(diskAt(apart)));
      await run('s1', 'on', portsOn(diskAt(apart)));
      expect(gameNow()).toEqual({ a: 'new' });
      expect(readFileSync(join(store, 's/kept/s1/2.dat'), 'utf8')).toBe('a');
      await run('s1', 'back', portsOn(diskAt(apart)));
      expect(gameNow()).toEqual({ a: 'a', b: 'b' });
    } finally {
      rmSync(store, { recursive: true });
    }
  },
);

const layDown = (id: string, from: string, to: string, files: readonly string[]): ChangeSet => ({
  ...{ version: CHANGES_VERSION, id, at: 0, what: 'lay-down', facts: {} },
  steps: [
    ...files.map((path) => {
      const text = readFileSync(game(path), 'utf8');
      return { do: 'copy', from: `trees/${from}/${path}`, to: `trees/${to}/${path}`, key: keyOfText(text) } as const;
    }),
    { do: 'write', text: 'fresh', to: `trees/${to}/new/file`, key: keyOfText('fresh') },
    { do: 'exchange', from, to, leaves: Object.entries(gameNow()).map(([path, text]) => [path, keyOfText(text)]) },
  ],
});

/** What lies in the game's folder but for the store, and nothing of ours among it. */
function gameNow(): Record<string, string> {
  const lines = execFileSync('find', ['.', '-type', 'f', '-not', '-path', `./${STORE_FOLDER}/*`], { cwd: game() });
  const paths = lines.toString().trim().split('\n').filter(Boolean);
  return Object.fromEntries(paths.sort().map((path) => [path.slice(2), readFileSync(game(path), 'utf8')]));
}

it('the store of another game inside the folder is no part of it, and is not torn away by a swap', async () => {
  put(game('a'), 'a');
  put(game(`inner/${STORE_FOLDER}/kept/s0/0.dat`), 'another game’s');
  expect((await diskAt().list('trees/t1')).map(({ path }) => path)).toEqual(['trees/t1/a']);
  const set = layDown('s1', 't1', 't2', ['a']);
  await openSet(set, portsOn(diskAt()));
  await expect(run('s1', 'on', portsOn(diskAt()))).rejects.toMatchObject({
    code: 'folder/has-store',
    facts: { path: `trees/t1/inner/${STORE_FOLDER}` },
  });
  expect(readFileSync(game(`inner/${STORE_FOLDER}/kept/s0/0.dat`), 'utf8')).toBe('another game’s');
  await run('s1', 'back', portsOn(diskAt()));
  expect(readFileSync(game('a'), 'utf8')).toBe('a');
});

it('a plan that was cut off while it was written goes when its set is let go', async () => {
  put(game(`${STORE_FOLDER}/journal/s1/.regressum-fresh`), 'half a pl');
  await letGo('s1', portsOn(diskAt()));
  expect(existsSync(game(`${STORE_FOLDER}/journal/s1`))).toBe(false);
});

describe.each(OPENINGS)('a lay-down in a real folder, opened by %s', (opening) => {
  beforeEach(() => openedBy(opening));
  const FILES = ['a', 'b/c', 'b/d/e'];
  beforeEach(() => FILES.forEach((path) => put(game(path), path.repeat(9))));

  it('changes what lies in the game’s folder, which stays; back again; and leaves no store behind', async () => {
    const before = gameNow();
    const { ino } = statSync(game());
    const ports = portsOn(diskAt());
    await openSet(layDown('s1', 't1', 't2', FILES.slice(1)), ports);
    await run('s1', 'on', ports);
    const after = { ...before, 'new/file': 'fresh' };
    delete (after as Record<string, string>).a;
    expect(gameNow()).toEqual(after);
    expect(statSync(game()).ino).toBe(ino);
    await run('s1', 'back', portsOn(diskAt()));
    expect(gameNow()).toEqual(before);
    await run('s1', 'on', portsOn(diskAt()));
    await letGo('s1', portsOn(diskAt()));
    expect(gameNow()).toEqual(after);
    expect(await pictureOf(diskAt(), 'trees/t2')).toEqual(
      Object.fromEntries(Object.entries(after).map(([path, text]) => [`trees/t2/${path}`, text])),
    );
    expect(Object.keys(await pictureOf(diskAt()))).toEqual(['current.dat', 'history/s1.dat']);
  });

  it('goes on or back from a cut at each change', async () => {
    const before = gameNow();
    const set = layDown('s1', 't1', 't2', FILES);
    for (let changes = 0; changes < 30; changes++) {
      const disk = diskAt();
      const ports = portsOn(failingAfter(changes, disk));
      const isWhole = await openSet(set, ports)
        .then(() => run('s1', 'on', ports))
        .then(
          () => true,
          () => false,
        );
      const fresh = portsOn(diskAt());
      if (changes % 2 === 0) {
        await openSet(set, fresh);
        await run('s1', 'on', fresh);
        expect(gameNow()).toEqual({ ...before, 'new/file': 'fresh' });
      }
      if (await fresh.disk.stat('journal/s1/plan.dat')) await run('s1', 'back', fresh);
      await letGo('s1', fresh);
      expect(gameNow()).toEqual(before);
      if (isWhole) return;
    }
    expect.unreachable('it never came to its end');
  });

  it.each(['out', 'in'] as const)('ends an exchange that was cut off while things moved %s', async (phase) => {
    const before = gameNow();
    const disk = diskAt();
    await disk.writeWhole('trees/t2/x', new TextEncoder().encode('x'));
    await disk.writeWhole('trees/t2/y/z', new TextEncoder().encode('z'));
    await disk.writeWhole('exchange.dat', new TextEncoder().encode(JSON.stringify({ from: 't1', to: 't2', phase })));
    if (phase === 'out') await disk.move('trees/t1/b/c', 'leaving/t1/b/c');
    else {
      for (const path of FILES) await disk.move(`trees/t1/${path}`, `leaving/t1/${path}`);
      await disk.move('trees/t2/x', 'trees/t1/x');
    }
    const next = diskAt();
    expect(await next.current()).toBe('t2');
    expect(gameNow()).toEqual({ x: 'x', 'y/z': 'z' });
    await next.exchange('t2', 't1');
    expect(gameNow()).toEqual(before);
    expect(await pictureOf(next, 'trees/t2')).toEqual({ 'trees/t2/x': 'x', 'trees/t2/y/z': 'z' });
  });

  it('a file that came meanwhile, where one is moved to, stops it with both kept', async () => {
    const disk = diskAt();
    await disk.writeWhole('trees/t2/x', new TextEncoder().encode('ours'));
    await disk.writeWhole('exchange.dat', new TextEncoder().encode('{"from":"t1","to":"t2","phase":"in"}'));
    put(game('x'), 'theirs');
    await expect(diskAt().current()).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
    expect(readFileSync(game('x'), 'utf8')).toBe('theirs');
    expect(readFileSync(game(`${STORE_FOLDER}/trees/t2/x`), 'utf8')).toBe('ours');
    rmSync(game('x'));
    expect(await diskAt().current()).toBe('t2');
  });
});
