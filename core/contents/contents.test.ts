import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  CHANGES_VERSION,
  type ChangeSet,
  type Disk,
  letGo,
  openSet,
  putHistory,
  run,
  stagedPath,
  type Step,
  treeFolder,
} from '#core/changes';
import type { ContentKey } from '#core/digest';
import { memoryFolder } from '#core/folders';
import { failingAfter, keyOfBytes, keyOfText, memoryDisk, portsOn } from '../testing/memory-disk';
import {
  carryOut,
  changesMade,
  contentName,
  contentPath,
  contentSources,
  expired,
  forgetInstall,
  keptContents,
  makeReference,
  storeView,
} from './index';
import { cases } from '../testing/cases';

const bytesOf = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const START = { a: 'alpha', 'b/c': 'gamma', 'b/d': 'delta' };

async function startDisk(): Promise<Disk> {
  const disk = memoryDisk('t1');
  for (const [path, text] of Object.entries(START)) await disk.writeWhole(`trees/t1/${path}`, bytesOf(text));
  return disk;
}

const setOf = (id: string, at: number, steps: Step[]): ChangeSet => ({
  ...{ version: CHANGES_VERSION, id, at, what: 'edit', facts: {}, steps },
});

const edit = (id: string, path: string, text: string, before: string | null): Step[] => [
  { do: 'write', text, to: stagedPath(id, 0), key: keyOfText(text) },
  {
    ...{ do: 'place', from: stagedPath(id, 0), to: `trees/t1/${path}`, key: keyOfText(text) },
    before: before === null ? null : keyOfText(before),
  },
];

/** A folder that is `files` laid down beside the one that there is. */
const swap = (from: string, to: string, files: Record<string, string>, leaves: Record<string, string>): Step[] => [
  ...Object.entries(files).map(([path, text]): Step => ({
    do: 'write',
    text,
    to: `trees/${to}/${path}`,
    key: keyOfText(text),
  })),
  {
    ...{ do: 'exchange', from, to },
    leaves: Object.entries(leaves).map(([path, text]): [string, ContentKey] => [path, keyOfText(text)]),
  },
];

async function make(disk: Disk, id: string, at: number, steps: Step[]): Promise<void> {
  const ports = { ...portsOn(disk), now: () => at };
  await openSet(setOf(id, at, steps), ports);
  await run(id, 'on', ports);
}

async function keep(disk: Disk, build: string, texts: readonly string[], from: Record<string, string>): Promise<void> {
  const ports = portsOn(disk);
  const reason = { kind: 'build', game: 'g', build } as const;
  const reference = await makeReference({ id: `build-${build}`, at: 0, reason }, texts.map(keyOfText), ports);
  const sources = Object.entries(from).map(([path, text]): [ContentKey, string] => [keyOfText(text), path]);
  await carryOut({ act: 'keep', reference, from: sources }, ports);
}

const viewOf = async (disk: Disk) => storeView(portsOn(disk), await disk.current());
const sourcesOf = async (disk: Disk) => contentSources(portsOn(disk), await disk.current());
const pathOf = async (text: string): Promise<string> =>
  contentPath(await contentName(keyOfText(text), portsOn(memoryDisk('t1')).sha256));

/** The same disk, on which the game's folder may not be listed. */
const withoutGame = (disk: Disk): Disk => ({
  ...disk,
  list: async (path = '') => {
    if (['', 'trees', treeFolder(await disk.current())].includes(path)) throw new Error('the game is listed');
    return disk.list(path);
  },
});

const FROM_GAME = { 'trees/t1/a': 'alpha', 'trees/t1/b/c': 'gamma' };

describe('a kept build', () => {
  it('is copied from where its contents lie, each once, and is a source for going back', async () => {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha', 'gamma', 'alpha'], FROM_GAME);
    expect((await disk.list('contents')).map(({ size }) => size)).toEqual([5, 5]);
    const { references, inventory } = await viewOf(disk);
    expect(references).toMatchObject([{ id: 'build-1', files: 2, missing: 0, bytes: 10, checkedAt: 0 }]);
    expect(inventory.piles.find(({ purpose }) => purpose.kind === 'reference')).toMatchObject({ files: 2, bytes: 10 });
    expect((await sourcesOf(disk)).get(keyOfText('alpha'))).toBe(await pathOf('alpha'));
  });

  it('is told of with all else that is kept, and with the changes, without a look at the game’s folder', async () => {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha'], FROM_GAME);
    const ports = portsOn(disk);
    const reason = { kind: 'fetched', install: 'i', build: '2' } as const;
    const reference = await makeReference({ id: 'fetched', at: 0, reason }, [keyOfText('gamma')], ports);
    await carryOut({ act: 'keep', reference, from: [[keyOfText('gamma'), 'trees/t1/b/c']] }, ports);
    // As a folder is that a browser alone can read: it is listed by itself, and takes long.
    const slow = withoutGame(disk);
    const current = await disk.current();
    const { references, history } = await viewOf(disk);
    expect(references.map(({ bytes }) => bytes)).toEqual([5, 5]);
    expect(await keptContents(portsOn(slow))).toEqual(references);
    expect((await contentSources(portsOn(slow), current)).size).toBe(2);
    expect(await changesMade(portsOn(slow))).toMatchObject(history.map(({ id, at }) => ({ id, at })));
    await expect(storeView(portsOn(slow), current)).rejects.toThrow('the game is listed');
  });

  it('comes and goes with others by one act as it does by itself, up to the first that cannot', async () => {
    const disk = await startDisk();
    const ports = portsOn(disk);
    const of = (build: string, text: string) => {
      const reason = { kind: 'build', game: 'g', build } as const;
      return makeReference({ id: `build-${build}`, at: 0, reason }, [keyOfText(text)], ports);
    };
    const [one, two] = [await of('1', 'alpha'), await of('2', 'gamma')];
    const keepOf = (reference: typeof one, text: string, path: string) =>
      ({ act: 'keep', reference, from: [[keyOfText(text), path] as [ContentKey, string]] }) as const;
    const acts = [keepOf(one, 'alpha', 'trees/t1/a'), keepOf(two, 'gamma', 'trees/t1/nowhere')];
    await expect(
      carryOut({ act: 'each', acts: acts.map((act) => ({ ...act, from: [...act.from] })) }, ports),
    ).rejects.toThrow();
    expect((await viewOf(disk)).references.map(({ id, missing }) => [id, missing])).toEqual([
      ['build-1', 0],
      ['build-2', 1],
    ]);
    const dropped = ['build-1', 'build-2'].map((reference) => ({ act: 'drop', reference }) as const);
    await carryOut({ act: 'each', acts: [...dropped] }, ports);
    expect(await disk.list('contents')).toEqual([]);
    expect((await viewOf(disk)).references).toEqual([]);
  });

  it('that another shares contents with keeps them when that one is given up', async () => {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
    await keep(disk, '2', ['gamma', 'delta'], { 'trees/t1/b/d': 'delta' });
    await carryOut({ act: 'drop', reference: 'build-1' }, portsOn(disk));
    expect(new Set((await disk.list('contents')).map(({ path }) => path))).toEqual(
      new Set([await pathOf('gamma'), await pathOf('delta')]),
    );
    expect((await viewOf(disk)).references).toMatchObject([{ id: 'build-2', missing: 0 }]);
  });

  it('is not kept from other bytes than were said to lie there', async () => {
    const disk = await startDisk();
    await expect(keep(disk, '1', ['alpha'], { 'trees/t1/b/c': 'alpha' })).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path: 'trees/t1/b/c' },
    });
    expect(await disk.list('contents')).toEqual([]);
    await expect(keep(disk, '1', ['nowhere'], {})).rejects.toMatchObject({ code: 'folder/not-found' });
  });

  it('cut off at any change goes on, and given up leaves nothing', async () => {
    for (let changes = 0; ; changes++) {
      const disk = await startDisk();
      const whole = await keep(failingAfter(changes, disk), '1', ['alpha', 'gamma'], FROM_GAME).then(
        () => true,
        () => false,
      );
      await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
      expect((await viewOf(disk)).references).toMatchObject([{ files: 2, missing: 0, bytes: 10 }]);
      await carryOut({ act: 'drop', reference: 'build-1' }, portsOn(disk));
      expect((await disk.list()).map(({ path }) => path)).toEqual(Object.keys(START).map((path) => `trees/t1/${path}`));
      if (whole) break;
      expect(changes).toBeLessThan(30);
    }
  });

  it('whose bytes have rotted is named, not used, and put right by keeping it again', async () => {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
    await disk.writeWhole(await pathOf('alpha'), bytesOf('ALPHA'));
    await carryOut({ act: 'verify', reference: 'build-1' }, portsOn(disk));
    const [reference] = (await viewOf(disk)).references;
    expect(reference).toMatchObject({ missing: 1 });
    expect(reference!.checkedAt).toBeUndefined();
    expect((await sourcesOf(disk)).has(keyOfText('alpha'))).toBe(false);
    await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
    expect((await viewOf(disk)).references).toMatchObject([{ missing: 0, checkedAt: 0 }]);
  });

  it('is said to be right only where every byte of it was read, also what was there before', async () => {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
    await disk.writeWhole(await pathOf('alpha'), bytesOf('ALPHA'));
    await keep(disk, '1', ['alpha', 'gamma'], FROM_GAME);
    expect(new TextDecoder().decode(await disk.read(await pathOf('alpha')))).toBe('alpha');
    await disk.writeWhole(await pathOf('alpha'), bytesOf('ALPHA'));
    await expect(keep(disk, '1', ['alpha', 'gamma'], {})).rejects.toMatchObject({ code: 'folder/not-found' });
    const [reference] = (await viewOf(disk)).references;
    expect([reference!.missing, reference!.checkedAt]).toEqual([1, undefined]);
  });
});

it('what is kept for an install alone goes with it, and what another or the game has stays', async () => {
  const disk = await startDisk();
  const ports = portsOn(disk);
  await keep(disk, '1', ['alpha'], FROM_GAME);
  const texts = { mine: 'mine', both: 'both', kept: 'kept' };
  for (const [name, text] of Object.entries(texts)) await disk.writeWhole(`trees/t1/${name}`, bytesOf(text));
  const refer = async (id: string, install: string, kind: 'fetched' | 'keepsake', names: (keyof typeof texts)[]) => {
    const reason =
      kind === 'fetched' ? ({ kind, install, build: '1' } as const) : ({ kind, install, keepsake: id } as const);
    const keys = names.map((name) => keyOfText(texts[name]));
    const reference = await makeReference({ id, at: 0, reason }, keys, ports);
    await carryOut({ act: 'keep', reference, from: keys.map((key, i) => [key, `trees/t1/${names[i]}`]) }, ports);
  };
  await refer('of-a', 'a', 'fetched', ['mine', 'both']);
  await refer('of-b', 'b', 'fetched', ['both']);
  await refer('saves-of-a', 'a', 'keepsake', ['kept']);
  const there = async (): Promise<string[]> => (await viewOf(disk)).references.map(({ id }) => id).toSorted();
  await forgetInstall('a', false, ports);
  expect(await there()).toEqual(['build-1', 'of-b', 'saves-of-a']);
  expect(await disk.stat(await pathOf('mine'))).toBeUndefined();
  expect(await disk.stat(await pathOf('both'))).toBeDefined();
  await forgetInstall('a', true, ports);
  expect(await there()).toEqual(['build-1', 'of-b']);
  expect(await disk.stat(await pathOf('kept'))).toBeUndefined();
  expect((await viewOf(disk)).references.every(({ missing }) => missing === 0)).toBe(true);
});

describe('nothing is removed', () => {
  async function withOrphan(): Promise<Disk> {
    const disk = await startDisk();
    await keep(disk, '1', ['alpha'], FROM_GAME);
    await disk.writeWhole(await pathOf('nobody’s'), bytesOf('nobody’s'));
    await disk.writeWhole('trees/t0/old', bytesOf('old'));
    return disk;
  }

  it('but what nothing refers to', async () => {
    const disk = await withOrphan();
    expect((await viewOf(disk)).inventory.piles.at(-1)).toMatchObject({ purpose: { kind: 'unclaimed' }, files: 2 });
    // A file that only lies there may be somebody's.
    await expect(carryOut({ act: 'clear' }, portsOn(disk))).rejects.toMatchObject({ code: 'changes/not-named' });
    const named = (await viewOf(disk)).unclaimed.map((file): [...typeof file] => [...file]);
    expect(named.map(([path, size]) => [path, size])).toEqual([['trees/t0/old', 3]]);
    await disk.writeWhole('trees/t0/old', bytesOf('other'));
    await expect(carryOut({ act: 'clear', named }, portsOn(disk))).rejects.toMatchObject({ code: 'changes/not-named' });
    await carryOut(
      { act: 'clear', named: [...(await viewOf(disk)).unclaimed].map(([...file]) => file) },
      portsOn(disk),
    );
    const { inventory, references } = await viewOf(disk);
    expect(inventory.piles.some(({ purpose }) => purpose.kind === 'unclaimed')).toBe(false);
    expect(references).toMatchObject([{ missing: 0 }]);
    expect(await disk.list('trees/t0')).toEqual([]);
  });

  it.each([
    ['is damaged', '{"sha256":"0","entry":"{}"}'],
    ['is of a newer version', undefined],
  ])('while a reference %s', async (_, text) => {
    const disk = await withOrphan();
    const entry = JSON.stringify({ version: 99 });
    const sha256 = await portsOn(disk).sha256(entry);
    await disk.writeWhole('references/other.dat', bytesOf(text ?? JSON.stringify({ sha256, entry })));
    const before = (await disk.list()).length;
    expect((await viewOf(disk)).unreadable).toEqual(['references/other.dat']);
    await expect(carryOut({ act: 'clear' }, portsOn(disk))).rejects.toMatchObject({ code: 'changes/damaged' });
    await expect(carryOut({ act: 'drop', reference: 'build-1' }, portsOn(disk))).rejects.toMatchObject({
      code: 'changes/damaged',
    });
    expect(await disk.list()).toHaveLength(before);
  });
});

describe('a journal that cannot be read', () => {
  it.each([
    ['since a newer version wrote it', JSON.stringify({ version: 99 })],
    ['since it is no change set', JSON.stringify({ version: 1, steps: 7 })],
  ])('%s, is named, keeps nobody from the rest, and nothing is removed', async (_, entry) => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await make(disk, 's2', 2, edit('s2', 'b/c', 'new', 'gamma'));
    await disk.writeWhole(await pathOf('nobody’s'), bytesOf('nobody’s'));
    const sha256 = await portsOn(disk).sha256(entry);
    await disk.writeWhole('journal/s1/plan.dat', bytesOf(JSON.stringify({ sha256, entry })));
    const { history, unreadable, inventory } = await viewOf(disk);
    expect(unreadable).toEqual(['journal/s1']);
    expect(history.map(({ id }) => id)).toEqual(['s2']);
    // What it keeps is its own still, and no source that anybody can tell.
    const own = inventory.piles.find(({ purpose }) => purpose.kind === 'change' && purpose.set === 's1');
    expect(own).toMatchObject({ files: 1, bytes: 5 });
    expect((await sourcesOf(disk)).has(keyOfText('gamma'))).toBe(true);
    expect((await sourcesOf(disk)).has(keyOfText('alpha'))).toBe(false);
    await expect(carryOut({ act: 'clear' }, portsOn(disk))).rejects.toMatchObject({ code: 'changes/damaged' });
  });
});

it('an entry of the history that cannot be read is named, and the others are told', async () => {
  const disk = await startDisk();
  await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
  await letGo('s1', portsOn(disk));
  const entry = JSON.stringify({ version: 99 });
  const sha256 = await portsOn(disk).sha256(entry);
  await disk.writeWhole('history/s0.dat', bytesOf(JSON.stringify({ sha256, entry })));
  await disk.writeWhole('history/cut.dat', bytesOf('{"sha'));
  const { history, unreadable } = await viewOf(disk);
  expect([history.map(({ id }) => id), unreadable]).toEqual([['s1'], ['history/s0.dat']]);
});

it('what an earlier version had fetched is used by nothing, and can go', async () => {
  const disk = await startDisk();
  await disk.writeWhole('fetched/abc', bytesOf('old'));
  await disk.writeWhole('keepsakes/one.zip', bytesOf('mine'));
  await carryOut({ act: 'clear' }, portsOn(disk));
  expect((await disk.list()).map(({ path }) => path).filter((path) => !path.startsWith('trees/'))).toEqual([
    'keepsakes/one.zip',
  ]);
});

describe('what changes keep', () => {
  it('is told by set, and lies where it can be had from', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await make(disk, 's2', 2, swap('t1', 't2', { a: 'other' }, { ...START, a: 'new' }));
    const sources = await sourcesOf(disk);
    expect(sources.get(keyOfText('alpha'))).toBe('kept/s1/1.dat');
    expect(sources.get(keyOfText('gamma'))).toBe('trees/t1/b/c');
    expect(sources.get(keyOfText('new'))).toBe('trees/t1/a');
    expect(sources.has(keyOfText('other'))).toBe(false);
    const { history } = await viewOf(disk);
    expect(history).toMatchObject([
      { id: 's2', state: 'made', keeps: { files: 3, bytes: 13 }, lost: 0, after: [] },
      { id: 's1', state: 'made', keeps: { files: 1, bytes: 5 }, lost: 0, after: ['s2'] },
    ]);
  });

  it('and an outsider has removed, is told as gone, and not counted on', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await disk.remove('kept/s1/1.dat');
    expect((await viewOf(disk)).history).toMatchObject([{ lost: 1 }]);
    expect((await sourcesOf(disk)).has(keyOfText('alpha'))).toBe(false);
    // Taking it back would leave nothing where there is something now.
    await expect(run('s1', 'back', portsOn(disk))).rejects.toMatchObject({ facts: { path: 'kept/s1/1.dat' } });
    expect(new TextDecoder().decode(await disk.read('trees/t1/a'))).toBe('new');
  });

  it('two lay-downs in a row orphan no folder', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, swap('t1', 't2', { a: 'two' }, START));
    await make(disk, 's2', 2, swap('t2', 't3', { a: 'three' }, { a: 'two' }));
    const { inventory, history } = await viewOf(disk);
    expect(inventory.piles.map(({ purpose }) => purpose.kind)).toEqual(['game', 'change', 'change', 'records']);
    expect(history.map(({ id, keeps }) => [id, keeps.files])).toEqual([
      ['s2', 1],
      ['s1', 3],
    ]);
    // The folders that were put aside are looked through for contents, the game's is not.
    const sources = await contentSources(portsOn(withoutGame(disk)), await disk.current());
    expect([sources.get(keyOfText('two')), sources.get(keyOfText('gamma'))]).toEqual(['trees/t2/a', 'trees/t1/b/c']);
  });

  it('a folder that was changed after it was laid down is told as it was left', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, swap('t1', 't2', { a: 'alpha', big: 'once' }, START));
    const to = 'trees/t2/big';
    const place: Step = {
      do: 'place',
      from: stagedPath('s2', 0),
      to,
      key: keyOfText('then'),
      before: keyOfText('once'),
    };
    await make(disk, 's2', 2, [{ do: 'write', text: 'then', to: stagedPath('s2', 0), key: keyOfText('then') }, place]);
    await make(disk, 's3', 3, swap('t2', 't3', { a: 'alpha' }, { a: 'alpha', big: 'then' }));
    const sources = await sourcesOf(disk);
    for (const [key, path] of sources) expect([path, keyOfBytes(await disk.read(path))]).toEqual([path, key]);
    expect(sources.get(keyOfText('then'))).toBe(to);
    expect((await viewOf(disk)).history.map(({ id, lost }) => [id, lost])).toEqual([
      ['s3', 0],
      ['s2', 0],
      ['s1', 0],
    ]);
  });

  it('one that no later change touched is taken back alone, one below others after them', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await make(disk, 's2', 2, edit('s2', 'b/c', 'new', 'gamma'));
    await make(disk, 's3', 3, edit('s3', 'a', 'newer', 'new'));
    await make(disk, 's4', 4, edit('s4', 'a', 'newest', 'newer'));
    const after = new Map((await viewOf(disk)).history.map((one) => [one.id, one.after]));
    expect(Object.fromEntries(after)).toEqual({ s1: ['s4', 's3'], s2: [], s3: ['s4'], s4: [] });
    for (const id of [...after.get('s1')!, 's1']) await run(id, 'back', portsOn(disk));
    expect(new TextDecoder().decode(await disk.read('trees/t1/a'))).toBe('alpha');
    expect(new TextDecoder().decode(await disk.read('trees/t1/b/c'))).toBe('new');
  });

  it('of a folder that is not the game’s any more cannot be taken back once the swap is let go', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await make(disk, 's2', 2, swap('t1', 't2', { a: 'two' }, { ...START, a: 'new' }));
    await make(disk, 's3', 3, swap('t2', 't3', { a: 'three' }, { a: 'two' }));
    const elsewhere = async () => (await viewOf(disk)).history.filter((one) => one.elsewhere).map(({ id }) => id);
    expect(await elsewhere()).toEqual([]);
    await letGo('s2', portsOn(disk));
    expect(await elsewhere()).toEqual(['s1']);
  });

  it('is told on after it was let go, with what others have changed', async () => {
    const disk = await startDisk();
    await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
    await letGo('s1', portsOn(disk));
    const counts = { written: 0, bytes: 0, replaced: 3, added: 0, removed: 1, moved: 0, swapped: false };
    await putHistory(portsOn(disk), {
      version: 1,
      id: 'seen-1',
      at: 5,
      what: 'outside',
      facts: {},
      counts,
      state: 'seen',
    });
    expect((await viewOf(disk)).history).toMatchObject([
      { id: 'seen-1', state: 'seen', counts: { replaced: 3, removed: 1 } },
      { id: 's1', state: 'let-go', keeps: { files: 0, bytes: 0 }, counts: { written: 1, replaced: 1 } },
    ]);
  });
});

it('the sum of the list is that of the disk, after whatever was done to it', async () => {
  const act = fc.record({ do: fc.constantFrom('edit', 'swap', 'back', 'let-go', 'keep', 'drop'), cut: fc.nat(12) });
  await fc.assert(
    fc.asyncProperty(fc.array(act, { maxLength: 14 }), async (acts) => {
      const disk = await startDisk();
      const ids: string[] = [];
      for (const [i, one] of acts.entries()) {
        const failing = failingAfter(one.cut, disk);
        const current = await disk.current();
        const id = `s${i}`;
        const there = await disk.read(`trees/${current}/a`).catch(() => undefined);
        // Between two steps of a change that was cut off there may be none.
        const a = there ? new TextDecoder().decode(there) : 'alpha';
        const work = async (): Promise<void> => {
          switch (one.do) {
            case 'edit': {
              ids.push(id);
              const steps = edit(id, 'a', `text ${i}`, a).map((step) =>
                step.do === 'place' ? { ...step, to: `trees/${current}/a` } : step,
              );
              return make(failing, id, i, steps);
            }
            case 'swap':
              ids.push(id);
              return make(failing, id, i, swap(current, `t${i + 2}`, { a: `text ${i}` }, { a }));
            case 'back':
              return run(ids.at(-1)!, 'back', portsOn(failing)).then(() => undefined);
            case 'let-go':
              return letGo(ids.shift()!, portsOn(failing));
            case 'keep':
              return keep(failing, '1', [a], { [`trees/${current}/a`]: a });
            case 'drop':
              return carryOut({ act: 'drop', reference: 'build-1' }, portsOn(failing));
          }
        };
        // What is cut off, or refused since there is nothing of the kind, leaves a disk as it may be found.
        await work().catch(() => undefined);
        const { inventory, unreadable } = await viewOf(disk);
        const all = await disk.list();
        expect(unreadable).toEqual([]);
        expect(inventory.bytes).toBe(all.reduce((sum, { size }) => sum + size, 0));
        expect(inventory.files).toBe(all.length);
        expect(inventory.piles.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(inventory.bytes);
        // Only what a drop that was cut off had still to remove is nobody's; and that can go.
        await carryOut({ act: 'clear' }, portsOn(disk));
        const left = new Set((await disk.list()).map(({ path }) => path));
        const removed = all.map(({ path }) => path).filter((path) => !left.has(path));
        expect(removed.every((path) => path.startsWith('contents/'))).toBe(true);
        expect(one.do === 'drop' ? [] : removed).toEqual([]);
      }
    }),
    { numRuns: cases(40) },
  );
});

describe('what is past its time', () => {
  const DAY = 86_400_000;
  const counts = { written: 0, bytes: 0, replaced: 0, added: 0, removed: 0, moved: 0, swapped: false };
  const change = (id: string, at: number, state: 'made' | 'unfinished', bytes: number) => ({
    ...({ version: 1, id, at, what: 'edit', facts: {}, counts, state } as const),
    ...{ keeps: { files: bytes > 0 ? 1 : 0, bytes }, lost: 0, aside: null, elsewhere: false, after: [] },
  });
  const build = (id: string, at: number) => ({
    ...{ id, at, reason: { kind: 'build', game: 'g', build: id } as const },
    ...{ files: 1, missing: 0, bytes: 1 },
  });
  const view = {
    history: [change('new', 10 * DAY, 'made', 5), change('old', 0, 'made', 5), change('cut', 0, 'unfinished', 5)],
    references: [build('b1', 1), build('b2', 2)],
  };

  it('is what is older, or more, than the rules say; what has not ended never is', () => {
    const past = expired(view, { changeDays: 7, builds: 1 }, 11 * DAY);
    expect(past.changes.map(({ id }) => id)).toEqual(['old']);
    expect(past.builds.map(({ id }) => id)).toEqual(['b1']);
  });

  it('is what changes keep beyond so many bytes, the newest counting first', () => {
    const ids = (changeBytes: number): string[] => expired(view, { changeBytes }, 11 * DAY).changes.map(({ id }) => id);
    expect([ids(4), ids(5), ids(10), ids(15)]).toEqual([['new', 'old'], ['old'], [], []]);
  });

  it('is nothing without rules', () => {
    expect(expired(view, {}, 1000 * DAY)).toEqual({ changes: [], fetched: [], builds: [] });
  });
});

it('a store that was copied with its folder tells and does the same there', async () => {
  const disk = await startDisk();
  await make(disk, 's1', 1, edit('s1', 'a', 'new', 'alpha'));
  const copy: Disk = { ...memoryFolder(), current: async () => 't1', exchange: async () => undefined };
  for (const { path } of await disk.list()) await copy.writeWhole(path, await disk.read(path));
  expect((await viewOf(copy)).history).toEqual((await viewOf(disk)).history);
  await run('s1', 'back', portsOn(copy));
  expect(new TextDecoder().decode(await copy.read('trees/t1/a'))).toBe('alpha');
});
