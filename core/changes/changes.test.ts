import fc from 'fast-check';
import { beforeEach, describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { failingAfter, onTwoVolumes, keyOfText, memoryDisk, pictureOf, portsOn } from '../testing/memory-disk';
import {
  type ChangeSet,
  CHANGES_VERSION,
  type Disk,
  type Leaves,
  letGo,
  listJournals,
  listOpen,
  type NamedFile,
  openSet,
  readJournal,
  run,
  type Step,
  whatTheyMeet,
  type Whose,
} from '.';
import { cases } from '../testing/cases';

const GAME = 'trees/t1';
const RECORD = 'record/record.json';
const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);

async function put(disk: Disk, files: Readonly<Record<string, string>>): Promise<void> {
  for (const [path, text] of Object.entries(files)) await disk.writeWhole(path, bytes(text));
}

const setOf = (steps: readonly Step[], id = 's1'): ChangeSet => ({
  version: CHANGES_VERSION,
  id,
  at: 0,
  what: 'edit',
  facts: {},
  steps: [...steps],
});

/** Puts a text into the game's place, over what it has there. */
function edit(id: string, n: number, to: string, text: string, before: string | null): Step[] {
  const from = `staged/${id}/${n}.dat`;
  const key = keyOfText(text);
  return [
    { do: 'write', text, to: from, key },
    { do: 'place', from, to, key, before: before === null ? null : keyOfText(before) },
  ];
}

const layDown = (id: string, from: string, to: string, files: Readonly<Record<string, string>>): Step[] => [
  ...Object.entries(files).map(([path, text]): Step => {
    const key = keyOfText(text);
    return { do: 'copy', from: `trees/${from}/${path}`, to: `trees/${to}/${path}`, key };
  }),
  { do: 'flag', path: RECORD, readOnly: false, before: true },
  ...edit(id, 0, RECORD, 'build 2', 'build 1'),
  { do: 'flag', path: RECORD, readOnly: true, before: false },
  {
    do: 'exchange',
    from,
    to,
    leaves: Object.entries(files).map(([path, text]): Leaves[number] => [path, keyOfText(text)]),
  },
];

/** What a person has: the game's folder as it is now, and what lies outside of it. */
async function inSight(disk: Disk): Promise<Record<string, string>> {
  const tree = `trees/${await disk.current()}/`;
  const all = await pictureOf(disk);
  return Object.fromEntries(
    Object.entries(all).flatMap(([path, text]) =>
      path.startsWith(tree) ? [[path.slice(tree.length), text]] : path.startsWith('record/') ? [[path, text]] : [],
    ),
  );
}

const isOurs = (path: string): boolean => /^(staged|kept|journal)\//.test(path);

/** Folders that a random set may work in, and what lies in them. */
const NAMES = ['a', 'b/c', 'b/d', 'e/f/g', 'h'];
const START = { a: 'alpha', 'b/c': 'gamma', 'e/f/g': 'x'.repeat(40) };

/** A set of steps that can be made one after the other, from the files that lie there. */
const randomSet = fc
  .array(fc.tuple(fc.constantFrom('edit', 'take', 'move', 'flag'), fc.nat(4), fc.nat(4), fc.string()))
  .map((wishes) => {
    const files = new Map<string, string>(Object.entries(START));
    const flags = new Set<string>();
    const touched = new Set<string>();
    const steps: Step[] = [];
    wishes.forEach(([what, i, j, text], n) => {
      const [path, other] = [NAMES[i]!, NAMES[j]!];
      const there = files.get(path);
      if (what !== 'flag' && (flags.has(path) || touched.has(path) || (what === 'move' && touched.has(other)))) return;
      if (what === 'edit') {
        steps.push(...edit('s1', n, `${GAME}/${path}`, text, there ?? null));
        files.set(path, text);
        touched.add(path);
      } else if (there === undefined) return;
      else if (what === 'take') {
        steps.push({ do: 'take', path: `${GAME}/${path}`, key: keyOfText(there) });
        files.delete(path);
        touched.add(path);
      } else if (what === 'move' && !files.has(other)) {
        steps.push({ do: 'move', from: `${GAME}/${path}`, to: `${GAME}/${other}`, key: keyOfText(there) });
        files.delete(path);
        files.set(other, there);
        touched.add(path).add(other);
      } else if (what === 'flag') {
        const before = flags.has(path);
        steps.push({ do: 'flag', path: `${GAME}/${path}`, readOnly: !before, before });
        if (before) flags.delete(path);
        else flags.add(path);
      }
    });
    return { set: setOf(steps), files, flags };
  });

async function startDisk(): Promise<Disk> {
  const disk = memoryDisk('t1');
  await put(disk, Object.fromEntries(Object.entries(START).map(([path, text]) => [`${GAME}/${path}`, text])));
  await put(disk, { [RECORD]: 'build 1' });
  await disk.setReadOnly(RECORD, true);
  return disk;
}

describe('the laws of a change set', () => {
  it.each([
    ['one volume', (disk: Disk) => disk],
    ['two volumes', onTwoVolumes],
  ])(
    'made, it gives what its steps say; taken back, what was there; and both from a cut anywhere, on %s',
    async (_, volumes) => {
      const cuts = fc.array(fc.nat(12), { maxLength: 6 });
      await fc.assert(
        fc.asyncProperty(randomSet, cuts, cuts, async ({ set, files, flags }, onCuts, backCuts) => {
          const disk = await startDisk();
          const before = await inSight(disk);
          const wanted: Record<string, string> = { [RECORD]: before[RECORD]! };
          for (const [path, text] of files) {
            const latin = Buffer.from(text).toString('latin1');
            wanted[path] = flags.has(path) ? `${latin} (read-only)` : latin;
          }
          const cutAndGoOn = async (way: 'on' | 'back', where: readonly number[]): Promise<void> => {
            for (const changes of where) {
              const ports = portsOn(volumes(failingAfter(changes, disk)));
              await openSet(set, ports)
                .then(() => run(set.id, way, ports))
                .catch((error: unknown) => expect(isFailure(error, 'folder/failed')).toBe(true));
            }
            await openSet(set, portsOn(volumes(disk)));
            await run(set.id, way, portsOn(volumes(disk)));
          };
          for (const [i, changes] of onCuts.entries()) {
            // Also who cannot make up their mind.
            const ports = portsOn(volumes(failingAfter(changes, disk)));
            await openSet(set, ports)
              .then(() => run(set.id, i % 2 ? 'back' : 'on', ports))
              .catch((error: unknown) => expect(isFailure(error, 'folder/failed')).toBe(true));
          }
          await cutAndGoOn('on', onCuts);
          expect(await inSight(disk)).toEqual(wanted);
          await cutAndGoOn('back', backCuts);
          expect(await inSight(disk)).toEqual(before);
          await run(set.id, 'on', portsOn(volumes(disk)));
          expect(await inSight(disk)).toEqual(wanted);
          await letGo(set.id, portsOn(volumes(disk)));
          expect(Object.keys(await pictureOf(disk)).filter(isOurs)).toEqual([]);
          expect(await inSight(disk)).toEqual(wanted);
        }),
        { numRuns: cases(120) },
      );
    },
  );

  it('a flag that was never set is not taken back, which would stand in the way of going on', async () => {
    const flag = (readOnly: boolean): Step => ({ do: 'flag', path: `${GAME}/a`, readOnly, before: !readOnly });
    const set = setOf([...edit('s1', 0, `${GAME}/a`, 'beta', 'alpha'), flag(true), flag(false)]);
    for (const [onCut, backCut] of Array.from({ length: 100 }, (_, i) => [i % 10, Math.floor(i / 10)] as const)) {
      const disk = await startDisk();
      await openSet(set, portsOn(disk));
      await run('s1', 'on', portsOn(failingAfter(onCut, disk))).catch(() => undefined);
      await run('s1', 'back', portsOn(failingAfter(backCut, disk))).catch(() => undefined);
      await run('s1', 'on', portsOn(disk));
      expect(await inSight(disk)).toMatchObject({ a: 'beta' });
    }
  });

  it('on two volumes goes on or back from a cut between the copy and the removal that a move is', async () => {
    const steps: Step[] = [
      ...edit('s1', 0, `${GAME}/a`, 'new', 'alpha'),
      ...edit('s1', 1, `${GAME}/fresh`, 'fresh', null),
      { do: 'take', path: `${GAME}/b/c`, key: keyOfText(START['b/c']) },
    ];
    const ready = steps.toSorted((a, b) => Number(b.do === 'write') - Number(a.do === 'write'));
    for (let changes = 0; ; changes++) {
      for (const way of ['on', 'back'] as const) {
        const disk = await startDisk();
        const before = await inSight(disk);
        const cut = portsOn(onTwoVolumes(failingAfter(changes, disk)));
        const isWhole = await openSet(setOf(ready), cut)
          .then(() => run('s1', 'on', cut))
          .then(
            () => true,
            () => false,
          );
        const ports = portsOn(onTwoVolumes(disk));
        await openSet(setOf(ready), ports);
        await run('s1', way, ports);
        const { 'b/c': _, ...rest } = before;
        const made = { ...rest, a: 'new', fresh: 'fresh' };
        expect(await inSight(disk), `${changes} ${way}`).toEqual(way === 'on' ? made : before);
        if (way === 'back' && isWhole) return;
      }
      expect(changes).toBeLessThan(100);
    }
  });

  it('turned back from a cut at each change of a lay-down, all is as it was, and nothing is left of it', async () => {
    for (let changes = 0; ; changes++) {
      const disk = await startDisk();
      const before = await pictureOf(disk);
      const cut = failingAfter(changes, disk);
      const set = setOf(layDown('s1', 't1', 't2', START));
      let isWhole = true;
      await openSet(set, portsOn(cut))
        .then(() => run('s1', 'on', portsOn(cut)))
        .catch(() => (isWhole = false));
      if (isWhole) break;
      if (await readJournal(portsOn(disk), 's1')) {
        await run('s1', 'back', portsOn(disk));
        for (let left = 0; left < 8; left++)
          await letGo('s1', portsOn(failingAfter(left, disk))).catch(() => undefined);
        await letGo('s1', portsOn(disk));
      }
      // A plan that was cut off while it was written is no plan. What was done is told on.
      await disk.remove('journal');
      await disk.remove('history');
      expect(await pictureOf(disk)).toEqual(before);
      expect(changes).toBeLessThan(100);
    }
  });

  it('a lay-down can be taken back and made again until it is let go', async () => {
    const disk = await startDisk();
    const set = setOf(layDown('s1', 't1', 't2', START));
    await openSet(set, portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    expect(await disk.current()).toBe('t2');
    expect((await inSight(disk))[RECORD]).toBe('build 2 (read-only)');
    await run('s1', 'back', portsOn(disk));
    expect(await disk.current()).toBe('t1');
    expect((await inSight(disk))[RECORD]).toBe('build 1 (read-only)');
    await run('s1', 'on', portsOn(disk));
    expect(await disk.current()).toBe('t2');
    await letGo('s1', portsOn(disk));
    expect(Object.keys(await pictureOf(disk)).filter((path) => path.startsWith('trees/t1/'))).toEqual([]);
    await expect(run('s1', 'back', portsOn(disk))).rejects.toMatchObject({ code: 'changes/unknown' });
  });
});

describe('what others do to the folder meanwhile', () => {
  let disk: Disk;
  beforeEach(async () => void (disk = await startDisk()));
  const set = setOf([
    ...edit('s1', 0, `${GAME}/a`, 'new a', 'alpha'),
    { do: 'take', path: `${GAME}/b/c`, key: keyOfText('gamma') },
  ]);

  it.each<[string, string, string]>([
    ['before it is made', `${GAME}/a`, 'foreign'],
    ['of what it takes out', `${GAME}/b/c`, 'foreign'],
  ])('stops it %s, and keeps what they wrote', async (_, path, text) => {
    await openSet(set, portsOn(disk));
    await put(disk, { [path]: text });
    await expect(run('s1', 'on', portsOn(disk))).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path },
    });
    expect((await pictureOf(disk))[path]).toBe(text);
    // Back is where the rest was; what they wrote stays.
    await run('s1', 'back', portsOn(disk));
    expect(await inSight(disk)).toEqual({
      ...START,
      [path.slice(GAME.length + 1)]: text,
      [RECORD]: 'build 1 (read-only)',
    });
  });

  it('stops taking back what was changed since, and goes on when that is put right', async () => {
    await openSet(set, portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    await put(disk, { [`${GAME}/a`]: 'the game wrote' });
    await expect(run('s1', 'back', portsOn(disk))).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
    expect((await pictureOf(disk))[`${GAME}/a`]).toBe('the game wrote');
    await put(disk, { [`${GAME}/a`]: 'new a' });
    await run('s1', 'back', portsOn(disk));
    expect(await inSight(disk)).toEqual({ ...START, [RECORD]: 'build 1 (read-only)' });
  });

  it('puts nothing over a file that came where none was', async () => {
    const fresh = setOf(edit('s1', 0, `${GAME}/new`, 'ours', null));
    await openSet(fresh, portsOn(disk));
    await put(disk, { [`${GAME}/new`]: 'theirs' });
    await expect(run('s1', 'on', portsOn(disk))).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
    expect((await pictureOf(disk))[`${GAME}/new`]).toBe('theirs');
  });

  it('copies no bytes but those that were planned', async () => {
    const copying = setOf(layDown('s1', 't1', 't2', START));
    await openSet(copying, portsOn(disk));
    await put(disk, { [`${GAME}/a`]: 'other' });
    await expect(run('s1', 'on', portsOn(disk))).rejects.toMatchObject({ facts: { path: `${GAME}/a` } });
    expect(await disk.current()).toBe('t1');
  });

  it('takes nothing back over a tree that a later set has put in place', async () => {
    await openSet(setOf(layDown('s1', 't1', 't2', START)), portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    await openSet(setOf([{ do: 'exchange', from: 't2', to: 't3' }], 's2'), portsOn(disk));
    await run('s2', 'on', portsOn(disk));
    await expect(run('s1', 'back', portsOn(disk))).rejects.toMatchObject({ code: 'changes/superseded' });
  });

  it.each<[string, () => Promise<void>, string]>([
    ['where another tree is the game’s folder by now', () => disk.exchange('t1', 't9'), 'changes/superseded'],
    ['where somebody has a tree of that name', () => put(disk, { 'trees/t2/x': 'theirs' }), 'changes/not-allowed'],
  ])('does not begin %s', async (_, meanwhile, code) => {
    await openSet(setOf(layDown('s1', 't1', 't2', START)), portsOn(disk));
    await meanwhile();
    const before = await pictureOf(disk);
    await expect(run('s1', 'on', portsOn(disk))).rejects.toMatchObject({ code });
    expect(await pictureOf(disk)).toEqual(before);
    await letGo('s1', portsOn(disk));
    // What others have there is not its own to remove.
    const theirs = Object.entries(before).filter(([path]) => !isOurs(path));
    expect(Object.entries(await pictureOf(disk)).filter(([path]) => !isOurs(path))).toEqual(theirs);
  });

  it('changes no tree but the game’s folder', async () => {
    await put(disk, { 'trees/t9/x': 'kept by another' });
    await openSet(setOf([{ do: 'take', path: 'trees/t9/x', key: keyOfText('kept by another') }]), portsOn(disk));
    await expect(run('s1', 'on', portsOn(disk))).rejects.toMatchObject({ code: 'changes/superseded' });
    expect(await pictureOf(disk, 'trees/t9')).toEqual({ 'trees/t9/x': 'kept by another' });
  });

  it('that is stopped while it writes puts no more down, and goes on to the same end', async () => {
    const stop = new AbortController();
    const files = Array.from({ length: 12 }, (_, i): Step => ({
      ...{ do: 'write', text: `text ${i}`, to: `trees/t2/${i}`, key: keyOfText(`text ${i}`) },
    }));
    await openSet(setOf([...files, { do: 'exchange', from: 't1', to: 't2' }]), portsOn(disk));
    const ports = portsOn(disk, stop.signal);
    const stopping = { ...ports, progress: () => stop.abort() };
    await expect(run('s1', 'on', stopping)).rejects.toMatchObject({ code: 'job/cancelled' });
    // What was under way at the same time ends.
    expect((await disk.list('trees/t2')).length).toBeLessThan(6);
    await run('s1', 'on', portsOn(disk));
    expect([(await disk.list('trees/t2')).length, await disk.current()]).toEqual([12, 't2']);
  });

  it('can be stopped between two steps', async () => {
    const stop = new AbortController();
    stop.abort();
    await openSet(set, portsOn(disk));
    await expect(run('s1', 'on', portsOn(disk, stop.signal))).rejects.toMatchObject({ code: 'job/cancelled' });
  });
});

/** A plan as a newer version may write it. */
function newerPlan(disk: Disk): Promise<void> {
  const entry = JSON.stringify({ version: CHANGES_VERSION + 1, steps: 'of another kind' });
  const text = JSON.stringify({ sha256: keyOfText(entry).split(':')[1], entry });
  return disk.writeWhole('journal/s1/plan.dat', bytes(text));
}

describe('the journal', () => {
  it('keeps a set as it was decided, whatever is decided meanwhile', async () => {
    const disk = await startDisk();
    const first = setOf(edit('s1', 0, `${GAME}/a`, 'first', 'alpha'));
    await openSet(first, portsOn(disk));
    const { set } = await openSet(setOf(edit('s1', 0, `${GAME}/a`, 'second', 'alpha')), portsOn(disk));
    expect(set).toEqual(first);
    expect(await listJournals({ disk })).toEqual(['s1']);
  });

  it('counts an entry that was torn as not written, but none before others', async () => {
    const disk = await startDisk();
    await openSet(setOf(edit('s1', 0, `${GAME}/a`, 'new', 'alpha')), portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    const entries = (await disk.list('journal/s1')).filter(({ path }) => !path.endsWith('plan.dat'));
    const last = entries.at(-1)!;
    const whole = await disk.read(last.path);
    await disk.writeWhole(last.path, whole.slice(0, 20));
    expect(await readJournal(portsOn(disk), 's1')).toMatchObject({ ended: false, way: 'on' });
    await run('s1', 'on', portsOn(disk));
    expect(await readJournal(portsOn(disk), 's1')).toMatchObject({ ended: true, way: 'on' });
    await disk.writeWhole(entries[0]!.path, bytes('torn'));
    await expect(readJournal(portsOn(disk), 's1')).rejects.toMatchObject({ code: 'changes/damaged' });
  });

  it('of a newer version is left alone', async () => {
    const disk = await startDisk();
    await newerPlan(disk);
    await expect(readJournal(portsOn(disk), 's1')).rejects.toMatchObject({ code: 'changes/newer' });
  });
});

describe('a set that would touch what is not its own', () => {
  const key = keyOfText('x');
  it.each<[string, Step]>([
    ['gets ready in the game', { do: 'write', text: 'x', to: `${GAME}/a`, key }],
    ['gets ready in another set', { do: 'write', text: 'x', to: 'staged/other/0.dat', key }],
    ['copies from a journal', { do: 'copy', from: 'journal/s0/plan.dat', to: 'staged/s1/0.dat', key }],
    ['places from the game', { do: 'place', from: `${GAME}/a`, to: `${GAME}/b`, key, before: null }],
    ['takes from a journal', { do: 'take', path: 'journal/s0/plan.dat', key }],
    ['takes what another keeps', { do: 'take', path: 'kept/s0/1.dat', key }],
    ['moves into a store', { do: 'move', from: `${GAME}/a`, to: 'kept/s0/1.dat', key }],
    ['touches a path twice', { do: 'take', path: `${GAME}/a`, key: keyOfText('alpha') }],
    [
      'places over what says which tree counts',
      { do: 'place', from: 'staged/s1/0.dat', to: 'current.dat', key, before: null },
    ],
    ['takes what is kept for all', { do: 'take', path: 'contents/x', key }],
    ['moves what is leaving', { do: 'move', from: 'leaving/t1/a', to: `${GAME}/z`, key }],
    ['flags a journal', { do: 'flag', path: 'journal/s0/plan.dat', readOnly: true, before: false }],
  ])('%s, is refused', async (_, step) => {
    const disk = await startDisk();
    const twice = edit('s1', 0, `${GAME}/a`, 'new', 'alpha');
    await expect(openSet(setOf([...twice, step]), portsOn(disk))).rejects.toMatchObject({
      code: 'changes/not-allowed',
    });
    expect(await listJournals({ disk })).toEqual([]);
  });
});

describe('what is turned over what others have changed', () => {
  /** Texts of all files that lie anywhere on the disk, of the store's own records apart. */
  const texts = async (disk: Disk): Promise<Set<string>> =>
    new Set(
      Object.entries(await pictureOf(disk)).flatMap(([path, text]) =>
        path.startsWith('journal/') ? [] : [text.replace(' (read-only)', '')],
      ),
    );

  const others = fc.array(fc.tuple(fc.nat(4), fc.option(fc.string({ minLength: 1 }))), { maxLength: 4 });

  async function meddle(disk: Disk, changes: readonly (readonly [number, string | null])[]): Promise<void> {
    for (const [i, text] of changes) {
      const path = `${GAME}/${NAMES[i]!}`;
      await disk.setReadOnly(path, false).catch(() => undefined);
      // A file and a folder of one name cannot be.
      if (text === null) await disk.remove(path);
      else await disk.writeWhole(path, bytes(text));
    }
  }

  /** Turns sets as a person would who is asked about each file, in the middle too. */
  async function turnAsking(
    ids: readonly string[],
    way: 'on' | 'back',
    disk: Disk,
    whose: (path: string) => Whose,
    meanwhile: () => Promise<void>,
  ): Promise<void> {
    for (let tries = 0; ; tries++) {
      const sets = (await Promise.all(ids.map((id) => readJournal(portsOn(disk), id)))).filter(
        (one) => one !== undefined,
      );
      const met = await whatTheyMeet(
        sets.filter((one) => one.way !== way || !one.ended),
        way,
        portsOn(disk),
      );
      const settled = met.flatMap(
        ({ path, choices, settlements }) => settlements[choices.includes(whose(path)) ? whose(path) : 'theirs'],
      );
      if (tries === 0) await meanwhile();
      try {
        for (const id of ids) {
          const settle = settled.flatMap(([set, settlement]) => (set === id ? [settlement] : []));
          await run(id, way, portsOn(disk), undefined, { settle });
        }
        return;
      } catch (error) {
        if (!isFailure(error, 'folder/changed-meanwhile') && !isFailure(error, 'folder/not-found')) throw error;
        expect(tries).toBeLessThan(8);
      }
    }
  }

  it('every file has an act that leads on, on and back, and no bytes are lost by any', async () => {
    await fc.assert(
      fc.asyncProperty(
        randomSet,
        others,
        others,
        others,
        fc.func(fc.constantFrom<Whose>('theirs', 'ours')),
        async (one, before, between, after, whose) => {
          const disk = await startDisk();
          const set = setOf(one.set.steps);
          await openSet(set, portsOn(disk));
          await meddle(disk, before);
          let seen = await texts(disk);
          const assertKept = async (): Promise<void> => {
            const now = await texts(disk);
            for (const text of seen) if (text !== '') expect(now).toContain(text);
          };
          await turnAsking(['s1'], 'on', disk, whose, async () => undefined);
          await assertKept();
          await meddle(disk, between);
          seen = await texts(disk);
          await turnAsking(['s1'], 'back', disk, whose, async () => {
            await meddle(disk, after);
            seen = await texts(disk);
          });
          await assertKept();
          await turnAsking(['s1'], 'on', disk, whose, async () => undefined);
          await assertKept();
          expect(await readJournal(portsOn(disk), 's1')).toMatchObject({ ended: true, way: 'on' });
        },
      ),
      { numRuns: cases(150) },
    );
  });

  it('of several sets, between which others wrote, all is asked about before the first byte moves', async () => {
    const disk = await startDisk();
    const make = async (id: string, steps: Step[]): Promise<void> => {
      await openSet(setOf(steps, id), portsOn(disk));
      await run(id, 'on', portsOn(disk));
    };
    await make('s1', [...edit('s1', 0, `${GAME}/a`, 'one', 'alpha'), ...edit('s1', 1, `${GAME}/h`, 'one', null)]);
    await put(disk, { [`${GAME}/a`]: 'theirs', [`${GAME}/h`]: 'theirs too' });
    await make('s2', edit('s2', 0, `${GAME}/a`, 'two', 'theirs'));
    const sets = await Promise.all(['s2', 's1'].map(async (id) => (await readJournal(portsOn(disk), id))!));
    const met = await whatTheyMeet(sets, 'back', portsOn(disk));
    expect(met.map(({ path, set, found, choices }) => ({ path, set, found, choices }))).toEqual([
      { path: `${GAME}/a`, set: 's1', found: keyOfText('theirs'), choices: ['theirs', 'ours'] },
      { path: `${GAME}/h`, set: 's1', found: keyOfText('theirs too'), choices: ['theirs', 'ours'] },
    ]);
    const [a, h] = met.map(({ settlements }) => settlements);
    const settle = [...a!.ours, ...h!.theirs].map(([, settlement]) => settlement);
    await run('s2', 'back', portsOn(disk));
    await run('s1', 'back', portsOn(disk), undefined, { settle });
    expect(await inSight(disk)).toEqual({ ...START, h: 'theirs too', [RECORD]: 'build 1 (read-only)' });
    // What was theirs is what making it again puts back.
    await run('s1', 'on', portsOn(disk));
    expect((await inSight(disk))['a']).toBe('theirs');
  });

  it('a record goes back to a text of its own, by what others have written to it', async () => {
    const disk = await startDisk();
    await disk.setReadOnly(RECORD, false);
    await openSet(setOf(edit('s1', 0, RECORD, 'build 2', 'build 1')), portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    await put(disk, { [RECORD]: 'build 2, updated' });
    const as: Step = {
      ...{ do: 'place', from: 'staged/s1/0.dat', to: RECORD },
      ...{ key: keyOfText('build 2, updated'), before: keyOfText('build 1, updated') },
    };
    const other = { step: 1, as, text: 'something else' };
    await expect(run('s1', 'back', portsOn(disk), undefined, { settle: [other] })).rejects.toMatchObject({
      code: 'changes/not-allowed',
    });
    await run('s1', 'back', portsOn(disk), undefined, { settle: [{ step: 1, as, text: 'build 1, updated' }] });
    expect((await inSight(disk))[RECORD]).toBe('build 1, updated');
    await run('s1', 'on', portsOn(disk));
    expect((await inSight(disk))[RECORD]).toBe('build 2, updated');
  });

  it.each<[string, Step]>([
    [
      'reaches another file',
      { do: 'place', from: 'staged/s1/0.dat', to: `${GAME}/b/c`, key: keyOfText('x'), before: null },
    ],
    ['leaves another file', { do: 'leave', path: `${GAME}/b/c` }],
    ['swaps folders', { do: 'exchange', from: 't1', to: 't2' }],
  ])('a settlement that %s is refused', async (_, as) => {
    const disk = await startDisk();
    await openSet(setOf(edit('s1', 0, `${GAME}/a`, 'new', 'alpha')), portsOn(disk));
    const turned = run('s1', 'on', portsOn(disk), undefined, { settle: [{ step: 1, as }] });
    await expect(turned).rejects.toMatchObject({ code: 'changes/not-allowed' });
    expect(await inSight(disk)).toMatchObject(START);
  });
});

describe('a folder that is put aside', () => {
  async function laidDown(): Promise<Disk> {
    const disk = await startDisk();
    await openSet(setOf(layDown('s1', 't1', 't2', START)), portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    return disk;
  }

  it('is deleted only once what nobody has read in it was named', async () => {
    const disk = await laidDown();
    await put(disk, { 'trees/t2/shots/1.png': 'a picture', 'trees/t2/a': 'edited' });
    const leaves = (await disk.list('trees/t2')).flatMap(({ path, modified }): Leaves =>
      path.endsWith('/a') || path.endsWith('.png')
        ? []
        : [[path.slice(9), keyOfText(START[path.slice(9) as 'a']), modified, false]],
    );
    await run('s1', 'back', portsOn(disk), undefined, { leaves });
    await expect(letGo('s1', portsOn(disk))).rejects.toMatchObject({ code: 'changes/not-named', facts: { files: 2 } });
    const named = await Promise.all(
      ['trees/t2/a', 'trees/t2/shots/1.png'].map(async (path): Promise<NamedFile> => {
        const { size, modified } = (await disk.stat(path))!;
        return [path, size, modified];
      }),
    );
    // Changed once more since it was named, it is another file.
    await put(disk, { 'trees/t2/a': 'edited again' });
    await expect(letGo('s1', portsOn(disk), named)).rejects.toMatchObject({ facts: { path: 'trees/t2/a', files: 1 } });
    const { size, modified } = (await disk.stat('trees/t2/a'))!;
    await letGo('s1', portsOn(disk), [...named, ['trees/t2/a', size, modified]]);
    expect(await disk.list('trees/t2')).toEqual([]);
  });

  it('that never was the game’s is not known by what lay in the one that is', async () => {
    const disk = await startDisk();
    await openSet(setOf(layDown('s1', 't1', 't2', START)), portsOn(disk));
    await expect(run('s1', 'on', portsOn(failingAfter(7, disk)))).rejects.toThrow();
    const leaves: Leaves = [['a', keyOfText('of t1'), null, false]];
    expect(await run('s1', 'back', portsOn(disk), undefined, { leaves })).toMatchObject({ leaves: undefined });
  });

  it('is changed by no set that belongs to it', async () => {
    const disk = await laidDown();
    const mend = edit('s2', 0, 'trees/t2/a', 'mended', 'alpha');
    await openSet(setOf(mend, 's2'), portsOn(disk));
    await run('s2', 'on', portsOn(disk));
    await run('s2', 'back', portsOn(disk));
    await run('s1', 'back', portsOn(disk));
    await expect(run('s2', 'on', portsOn(disk))).rejects.toMatchObject({ code: 'changes/superseded' });
    expect((await pictureOf(disk))['trees/t2/a']).toBe('alpha');
  });
});

describe('while a set is between two states', () => {
  it('no other is begun, and it can be gone on with or taken back', async () => {
    const disk = await startDisk();
    const first = setOf(edit('s1', 0, `${GAME}/a`, 'new', 'alpha'), 's1');
    await openSet(first, portsOn(disk));
    await expect(run('s1', 'on', portsOn(failingAfter(4, disk)))).rejects.toThrow();
    expect(await listOpen(portsOn(disk))).toEqual(['s1']);
    await openSet(setOf(edit('s2', 0, `${GAME}/b/c`, 'new', 'gamma'), 's2'), portsOn(disk));
    await expect(run('s2', 'on', portsOn(disk))).rejects.toMatchObject({
      code: 'changes/unfinished',
      facts: { set: 's1' },
    });
    await run('s1', 'back', portsOn(disk));
    expect(await listOpen(portsOn(disk))).toEqual([]);
    await run('s2', 'on', portsOn(disk));
    expect(await inSight(disk)).toMatchObject({ a: 'alpha', 'b/c': 'new' });
  });

  it.each<[string, (disk: Disk, entry: string) => Promise<void>, readonly string[]]>([
    ['that a newer version has begun keeps others from it', (disk) => newerPlan(disk), ['s1']],
    ['whose journal is damaged keeps nobody from the folder', (disk, entry) => disk.remove(entry), []],
  ])('one %s', async (_, spoil, open) => {
    const disk = await startDisk();
    await openSet(
      setOf([...edit('s1', 0, `${GAME}/a`, 'new', 'alpha'), ...edit('s1', 1, `${GAME}/h`, 'new', null)]),
      portsOn(disk),
    );
    await expect(run('s1', 'on', portsOn(failingAfter(6, disk)))).rejects.toThrow();
    await spoil(disk, 'journal/s1/00000000.dat');
    expect(await listOpen(portsOn(disk))).toEqual(open);
    await openSet(setOf(edit('s2', 0, `${GAME}/b/c`, 'new', 'gamma'), 's2'), portsOn(disk));
    const second = run('s2', 'on', portsOn(disk));
    if (open.length > 0) await expect(second).rejects.toMatchObject({ code: 'changes/unfinished' });
    else await expect(second).resolves.toMatchObject({ ended: true });
  });

  it('two that are so at once, as a store may be found, each lead out', async () => {
    const disk = await startDisk();
    const [one, two] = [memoryDisk('t1'), disk];
    await put(one, { [`${GAME}/b/c`]: 'gamma' });
    for (const [id, at, path] of [
      ['s1', two, 'a'],
      ['s2', one, 'b/c'],
    ] as const) {
      await openSet(setOf(edit(id, 0, `${GAME}/${path}`, 'new', START[path]), id), portsOn(at));
      await expect(run(id, 'on', portsOn(failingAfter(4, at)))).rejects.toThrow();
    }
    for (const { path } of await one.list()) if (isOurs(path)) await disk.writeWhole(path, await one.read(path));
    expect((await listOpen(portsOn(disk))).toSorted()).toEqual(['s1', 's2']);
    await run('s2', 'back', portsOn(disk));
    await run('s1', 'on', portsOn(disk));
    expect(await inSight(disk)).toMatchObject({ a: 'new', 'b/c': 'gamma' });
  });
});
